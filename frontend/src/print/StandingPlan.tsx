/** Whether the piece stands, drawn from above: what it rests on, its centre of mass, and where it would fall over. */
import type { Lying } from '../api/printing';
import { short } from '../controls/format';

const SIDE = 210;
const EDGE = 18;

export function StandingPlan({ lies }: { lies: Lying }) {
  const { support, centre, stands, tip_angle, tip_towards, size } = lies;
  const [cx, cy] = centre;
  const points = [...support, [cx, cy] as [number, number]];
  const xs = points.map(([x]) => x);
  const ys = points.map(([, y]) => y);
  const middle = [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2] as const;
  const reach = Math.max(
    Math.max(...xs) - Math.min(...xs),
    Math.max(...ys) - Math.min(...ys),
    0.1 * size[2],
    1e-6,
  );
  const scale = (SIDE - 2 * EDGE) / reach;
  const high = Math.max(70, (Math.max(...ys) - Math.min(...ys)) * scale + 2 * EDGE);
  const on = ([x, y]: readonly [number, number]) =>
    [SIDE / 2 + (x - middle[0]) * scale, high / 2 - (y - middle[1]) * scale] as const;
  const [px, py] = on([cx, cy]);
  const away = reachOf(support, [cx, cy], tip_towards);
  const turn = (tip_towards * Math.PI) / 180;
  const [ex, ey] = on([cx + away * Math.cos(turn), cy + away * Math.sin(turn)]);
  return (
    <div className="standing">
      <svg viewBox={`0 0 ${SIDE} ${high}`} role="img" aria-label="What it stands on, from above">
        {support.length > 2 ? (
          <polygon points={support.map((p) => on(p).join(',')).join(' ')} className="rests" />
        ) : (
          <polyline points={support.map((p) => on(p).join(',')).join(' ')} className="rests" />
        )}
        {stands && <line x1={px} y1={py} x2={ex} y2={ey} className="falls" />}
        <circle cx={px} cy={py} r={4.5} className={stands ? 'mass' : 'mass falls-over'} />
      </svg>
      <p className={stands ? 'quiet' : 'falls-over'}>
        {stands
          ? `Falls over past ${short(tip_angle, 1)}°, ${WAYS[Math.round(((tip_towards + 360) % 360) / 45) % 8]}; its weight is ${short(away, 1)} mm from that edge.`
          : support.length < 3
            ? 'Falls over by itself: it rests on a point or a line only.'
            : 'Falls over by itself: its weight is beyond what it rests on.'}
      </p>
    </div>
  );
}

const WAYS = [
  'to the right',
  'to the back right',
  'to the back',
  'to the back left',
  'to the left',
  'to the front left',
  'to the front',
  'to the front right',
];

/** How far a polygon's edges are from a point along a direction, degrees: 0 outside. */
function reachOf(polygon: [number, number][], [x, y]: [number, number], degrees: number): number {
  const [nx, ny] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  return Math.max(0, ...polygon.map(([a, b]) => (a - x) * nx + (b - y) * ny));
}
