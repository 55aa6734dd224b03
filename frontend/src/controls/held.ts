/** Keys that are held while the pointer drags: they change what the drag does. */

import { HELD_KEYS } from './commands';

const down = new Set<string>();
const key = (e: KeyboardEvent) => e.key.toLowerCase();

window.addEventListener('keydown', (e) => down.add(key(e)));
window.addEventListener('keyup', (e) => down.delete(key(e)));
window.addEventListener('blur', () => down.clear());

export const HELD = {
  /** A free hand: no steps, nothing snaps. */
  free: () => down.has(HELD_KEYS.free),
  /** Stretch from the middle, both sides at once. */
  middle: () => down.has(HELD_KEYS.middle),
  /** Stretch in proportion. */
  proportion: () => down.has(HELD_KEYS.proportion),
  /** Steps ten times smaller; fifteen times for turns. */
  fine: () => down.has('shift'),
};
