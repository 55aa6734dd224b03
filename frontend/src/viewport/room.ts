/** The room that a view has for what it shows: its canvas less the rows of buttons and notes that lie over it. */

/** px at each edge of the canvas that something lies over. */
export type Room = { top: number; bottom: number };

const EDGE = 'data-over';
/** Marks a row that lies along an edge of the view: `<div {...over('top')}>`. */
export const over = (edge: keyof Room) => ({ [EDGE]: edge });

/** px between what is shown and what lies over it. */
const GAP = 8;
/** Rows may not take more than this share of a low view. */
const MOST = 0.45;

export function roomOf(canvas: HTMLCanvasElement): Room {
  const room = { top: 0, bottom: 0 };
  const stage = canvas.closest('.stage');
  const whole = canvas.getBoundingClientRect();
  for (const row of stage?.querySelectorAll(`[${EDGE}]`) ?? []) {
    const box = row.getBoundingClientRect();
    if (box.height === 0) continue;
    if (row.getAttribute(EDGE) === 'top') room.top = Math.max(room.top, box.bottom - whole.top + GAP);
    else room.bottom = Math.max(room.bottom, whole.bottom - box.top + GAP);
  }
  const least = Math.min(1, (MOST * whole.height) / Math.max(room.top + room.bottom, 1));
  return { top: room.top * least, bottom: room.bottom * least };
}
