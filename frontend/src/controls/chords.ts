/** Key chords as text, such as `Ctrl+Shift+D`, `/` or `Page Up`, from what was pressed. */

const NAMES: Record<string, string> = {
  ' ': 'Space',
  ArrowLeft: 'Left',
  ArrowRight: 'Right',
  ArrowUp: 'Up',
  ArrowDown: 'Down',
  PageUp: 'Page Up',
  PageDown: 'Page Down',
  Escape: 'Esc',
  Backspace: 'Delete',
};
const MODIFIERS = ['Control', 'Shift', 'Alt', 'Meta', 'AltGraph'];

/** The chord of a key press; null for a modifier alone. */
export function chordOf(
  e: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>,
): string | null {
  if (MODIFIERS.includes(e.key)) return null;
  const sign = e.key.length === 1 && !/[a-z0-9 ]/i.test(e.key);
  const name = NAMES[e.key] ?? (e.key.length === 1 ? e.key.toUpperCase() : e.key);
  const parts = [
    (e.ctrlKey || e.metaKey) && 'Ctrl',
    e.altKey && 'Alt',
    // A sign such as ? already says that Shift was held.
    e.shiftKey && !sign && 'Shift',
    name,
  ];
  return parts.filter(Boolean).join('+');
}
