/** Every command of Make: its name, what it is called, and the key chord it has unless the maker changes it. */

export type Command = { label: string; group: string; chord: string; finer?: boolean; tool?: string };

/** finer: with Shift held the step is ten times smaller. tool: of the view, that it takes in hand. */
export const COMMANDS = {
  undo: { label: 'Undo', group: 'Work', chord: 'Ctrl+Z' },
  redo: { label: 'Redo', group: 'Work', chord: 'Ctrl+Y' },
  history: { label: 'Show or hide the history', group: 'Work', chord: 'Alt+H' },
  copy: { label: 'Copy', group: 'Work', chord: 'Ctrl+C' },
  cut: { label: 'Cut to the clipboard', group: 'Work', chord: 'Ctrl+X' },
  paste: { label: 'Paste', group: 'Work', chord: 'Ctrl+V' },
  duplicate: { label: 'Duplicate in place', group: 'Work', chord: 'Ctrl+D' },
  'duplicate-again': { label: 'Duplicate again, by the same step', group: 'Work', chord: 'Ctrl+Shift+D' },
  remove: { label: 'Remove', group: 'Work', chord: 'Delete' },
  find: { label: 'Find a command or primitive', group: 'Work', chord: '/' },
  preferences: { label: 'Preferences', group: 'Work', chord: 'Ctrl+,' },
  keep: { label: 'Keep in the parts drawer', group: 'Work', chord: 'Alt+K' },
  drawer: { label: 'Open the parts drawer', group: 'Work', chord: '' },
  'pick-all': { label: 'Pick all', group: 'Pick', chord: 'Ctrl+A' },
  'let-go': { label: 'Let go, step out', group: 'Pick', chord: 'Esc' },
  'pick-box': { label: 'Pick by a box', group: 'Pick', chord: 'J', tool: 'box' },
  'pick-lasso': { label: 'Pick by a lasso', group: 'Pick', chord: 'L', tool: 'lasso' },
  enter: { label: 'Go into the group', group: 'Pick', chord: 'Enter' },
  'nudge-right': { label: 'Move right', group: 'Place', chord: 'Right', finer: true },
  'nudge-left': { label: 'Move left', group: 'Place', chord: 'Left', finer: true },
  'nudge-away': { label: 'Move away', group: 'Place', chord: 'Up', finer: true },
  'nudge-near': { label: 'Move near', group: 'Place', chord: 'Down', finer: true },
  raise: { label: 'Raise', group: 'Place', chord: 'Page Up', finer: true },
  lower: { label: 'Lower', group: 'Place', chord: 'Page Down', finer: true },
  'turn-left': { label: 'Turn about z, to the left', group: 'Place', chord: '[', finer: false },
  'turn-right': { label: 'Turn about z, to the right', group: 'Place', chord: ']', finer: false },
  seat: { label: 'Seat on a face', group: 'Place', chord: 'E', tool: 'seat' },
  draw: { label: 'Draw the points of a drawn form', group: 'Place', chord: 'I', tool: 'draw' },
  'line-up': { label: 'Line up', group: 'Place', chord: 'U' },
  sink: { label: 'Sink into the last one picked', group: 'Place', chord: 'N' },
  'set-down': { label: 'Set down', group: 'Place', chord: 'V' },
  centre: { label: 'Centre on the wheel', group: 'Place', chord: 'C' },
  'mirror-x': { label: 'Mirror in place, left to right', group: 'Place', chord: 'Alt+X' },
  'mirror-y': { label: 'Mirror in place, front to back', group: 'Place', chord: 'Alt+Y' },
  'mirror-z': { label: 'Mirror in place, upside down', group: 'Place', chord: 'Alt+Z' },
  'wheel-on-face': { label: 'Wheel on a face', group: 'Place', chord: 'Q', tool: 'face' },
  'wheel-down': { label: 'Wheel back down', group: 'Place', chord: 'Shift+Q' },
  snapping: { label: 'Catch the grid and other parts', group: 'Place', chord: 'G' },
  group: { label: 'Group', group: 'Join', chord: 'Ctrl+G' },
  ungroup: { label: 'Ungroup', group: 'Join', chord: 'Ctrl+Shift+G' },
  union: { label: 'Union', group: 'Join', chord: 'Alt+U' },
  difference: { label: 'Difference', group: 'Join', chord: 'Alt+D' },
  intersection: { label: 'Intersection', group: 'Join', chord: 'Alt+I' },
  split: { label: 'Split: keep both sides', group: 'Join', chord: 'Alt+P' },
  'make-cutter': { label: 'Make a cutter of this', group: 'Join', chord: 'Alt+C' },
  'cut-with-copy': { label: 'Cut the first with a copy of the second, with room', group: 'Join', chord: '' },
  'cut-inside': { label: 'Cut its inside out, open underneath', group: 'Join', chord: '' },
  bake: { label: 'Bake into a mesh', group: 'Join', chord: '' },
  swap: { label: 'Swap body and tool', group: 'Join', chord: 'Alt+S' },
  'copies-row': { label: 'Copies: row', group: 'Copies', chord: '' },
  'copies-ring': { label: 'Copies: ring', group: 'Copies', chord: '' },
  'copies-twin': { label: 'Copies: twin', group: 'Copies', chord: '' },
  'copies-grid': { label: 'Copies: grid', group: 'Copies', chord: '' },
  'copies-path': { label: 'Copies: along a path', group: 'Copies', chord: '' },
  'break-copies': { label: 'Break copies apart', group: 'Copies', chord: '' },
  lock: { label: 'Lock or unlock', group: 'Show', chord: 'Alt+L' },
  hide: { label: 'Hide or show', group: 'Show', chord: 'H' },
  solo: { label: 'Solo: only what is picked', group: 'Show', chord: 'O' },
  reference: { label: 'Reference only, or part of the piece again', group: 'Show', chord: 'R' },
  cutters: { label: 'Show or hide cutters', group: 'Show', chord: 'K' },
  'look-result': { label: 'Look at the result', group: 'Show', chord: '1' },
  'look-parts': { label: 'Look at the parts', group: 'Show', chord: '2' },
  'look-xray': { label: 'Look through (X-ray)', group: 'Show', chord: '3' },
  'look-section': { label: 'Look at a section', group: 'Show', chord: '4' },
  'surface-glazed': { label: 'Show it as glazed', group: 'Show', chord: 'Alt+1' },
  'surface-clay': { label: 'Show it as grey clay', group: 'Show', chord: 'Alt+2' },
  'surface-wires': { label: 'Show its wireframe', group: 'Show', chord: 'Alt+3' },
  'surface-bands': { label: 'Show how smooth it is', group: 'Show', chord: 'Alt+4' },
  measure: { label: 'Measure', group: 'Show', chord: 'T', tool: 'measure' },
  references: { label: 'Reference pictures', group: 'Show', chord: 'Alt+R', tool: 'references' },
  'look-apart': { label: 'Look at it pulled apart', group: 'Show', chord: '5' },
  'section-face': { label: 'Section along a face', group: 'Show', chord: 'Shift+4', tool: 'section-face' },
  'frame-all': { label: 'Frame all', group: 'Show', chord: 'Home' },
  'frame-chosen': { label: 'Frame what is picked', group: 'Show', chord: 'Shift+Home' },
  'eye-left': { label: 'Turn the eye a quarter to the left', group: 'Show', chord: ',' },
  'eye-right': { label: 'Turn the eye a quarter to the right', group: 'Show', chord: '.' },
  'eye-up': { label: 'Look from higher', group: 'Show', chord: '=' },
  'eye-down': { label: 'Look from lower', group: 'Show', chord: '-' },
  'eye-back': { label: 'Back to where you looked from', group: 'Show', chord: 'B' },
  picture: { label: 'Take a picture of the view', group: 'Show', chord: '', tool: 'picture' },
  projection: { label: 'Perspective or parallel', group: 'Show', chord: 'Shift+P' },
} satisfies Record<string, Command>;

/** Keys that are held while the pointer drags: no command has one, or it would be run in the middle of that. */
export const HELD_KEYS = { free: 'f', middle: 'm', proportion: 'p' };

export type CommandName = keyof typeof COMMANDS;
export type ToolCommand = {
  [Name in CommandName]: (typeof COMMANDS)[Name] extends { tool: string } ? Name : never;
}[CommandName];
export const COMMAND_NAMES = Object.keys(COMMANDS) as CommandName[];

/** Commands that had another name when makers first gave them shortcuts of their own. */
const ONCE: Record<string, CommandName> = { 'work-on-face': 'wheel-on-face', 'work-on-wheel': 'wheel-down' };

/** A maker's own shortcuts under the names that commands have now. */
export function underNames(own: Record<string, string>): Record<string, string> {
  return Object.fromEntries(Object.entries(own).map(([name, chord]) => [ONCE[name] ?? name, chord]));
}

/** The chord of every command: the maker's own, else its first, unless the maker gave that to another. */
export function chords(own: Record<string, string>): Map<CommandName, string> {
  const given = new Set(Object.values(own));
  return new Map(
    COMMAND_NAMES.map((name) => {
      const first = COMMANDS[name].chord;
      return [name, own[name] ?? (given.has(first) ? '' : first)];
    }),
  );
}

/** The command of a pressed chord, and whether its finer step is meant. */
export function commandAt(
  chord: string,
  all: Map<CommandName, string>,
): { name: CommandName; fine: boolean } | null {
  for (const [name, own] of all) if (own === chord) return { name, fine: false };
  const plain = chord.replace('Shift+', '');
  if (plain === chord) return null;
  for (const [name, own] of all) {
    if (own === plain && (COMMANDS[name] as Command).finer) return { name, fine: true };
  }
  return null;
}
