/** Where the next plane cuts best: through the middle of the longest stretch that no plane has cut yet. */
import type { CutLines } from '../api/printing';

type Plane = CutLines['planes'][number];
type Corners = readonly [readonly number[], readonly number[]];
const AXES = ['x', 'y', 'z'] as const;

export function nextPlane([low, high]: Corners, planes: readonly Plane[]): Plane {
  const stretches = AXES.flatMap((axis, i) => {
    const [first, last] = [low[i] as number, high[i] as number];
    const cuts = planes.filter((plane) => plane.axis === axis && plane.at > first && plane.at < last);
    const stops = [first, ...cuts.map((plane) => plane.at).sort((a, b) => a - b), last];
    return stops.slice(1).map((end, k) => ({ axis, start: stops[k] as number, end }));
  });
  const { axis, start, end } = stretches.reduce((a, b) => (b.end - b.start > a.end - a.start ? b : a));
  return { axis, at: roundWithin(start, end) };
}

/** The middle of a stretch, as round a number as a tenth of its length allows. */
function roundWithin(start: number, end: number): number {
  const step = 10 ** Math.min(0, Math.floor(Math.log10((end - start) / 10)));
  return Number((Math.round((start + end) / 2 / step) * step).toPrecision(12));
}
