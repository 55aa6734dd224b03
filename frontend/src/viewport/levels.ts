/** How many coarser skins there are of one, and which of them is drawn. */

/** Each has half the triangles of the one before. */
export const LEVELS = 7;
/** Which level has no more than `share` of the triangles: 0 is the skin itself, 1 the first coarser one. */
export const levelFor = (share: number): number =>
  share >= 1 ? 0 : Math.min(LEVELS, Math.ceil(Math.log2(1 / share) - 1e-9));
