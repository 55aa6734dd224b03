/** How quickly this machine draws, and how much of a large piece it is given to draw while the view moves. */
import { create } from 'zustand';

/** What a frame may take while the view moves, ms, and what is aimed at where one takes longer. */
const SLOW = 50;
const AIM = 40;
/** Less than this cannot be told apart, ms. */
const LEAST = 4;
/** Frames that are judged together. */
const TOGETHER = 2;
/** No fewer triangles than these are drawn, however slow; where no graphics card draws, no more until one is measured. */
const FEWEST = 8000;

/** Learns from frames how many triangles one may have. */
export class Pace {
  budget: number;
  private costs: number[] = [];
  private of = 0;

  /** software: nothing but the processor draws. */
  constructor(software: boolean) {
    this.budget = software ? FEWEST : Number.POSITIVE_INFINITY;
  }

  /** One frame took `cost` ms for so many triangles. */
  note(cost: number, triangles: number) {
    // Frames are judged with those that are like them.
    if (triangles > 2 * this.of || this.of > 2 * triangles) this.costs = [];
    this.of = triangles;
    this.costs = [...this.costs, cost].slice(-TOGETHER);
    if (this.costs.length < TOGETHER) return;
    const mean = Math.max(LEAST, this.costs.reduce((a, b) => a + b) / TOGETHER);
    const fits = (triangles * AIM) / mean;
    if (mean > SLOW) this.budget = Math.max(FEWEST, Math.min(this.budget, fits));
    else if (mean < AIM) this.budget = Math.max(this.budget, fits);
  }
}

/** At rest it may take so many times as long as while it moves: about a second. */
const AT_REST = 25;

type PaceState = {
  /** The view moves, or something in it is carried. */
  moving: boolean;
  /** Triangles that a frame may have while it moves. */
  budget: number;
  /** Triangles of all that could be drawn coarser, as fine as it is. */
  inSight: number;
};
export const usePace = create<PaceState>(() => ({
  moving: false,
  budget: Number.POSITIVE_INFINITY,
  inSight: 0,
}));

const LOOK_AGAIN_MS = 200;

/** Until nothing moves in the view: what else is drawn meanwhile would hold it up, and the page with it. */
export async function atRest() {
  while (usePace.getState().moving) await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
}

/** The share of them that is drawn just now. */
export const shareOf = ({ moving, budget, inSight }: PaceState): number =>
  Math.min(1, ((moving ? 1 : AT_REST) * budget) / Math.max(1, inSight));

/** Renderers that have no graphics card under them. */
const SOFTWARE = /swiftshader|llvmpipe|softpipe|software|basic render/i;

export function isSoftware(gl: WebGL2RenderingContext): boolean {
  const told = gl.getExtension('WEBGL_debug_renderer_info');
  return told !== null && SOFTWARE.test(String(gl.getParameter(told.UNMASKED_RENDERER_WEBGL)));
}
