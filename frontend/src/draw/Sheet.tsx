/** The sheet that is drawn on: a grid in mm, loops with points and handles; wheel zooms, an empty drag moves it. */
import { useEffect, useRef, useState } from 'react';
import type { Tool } from './Board';
import { Grid } from './Grid';
import {
  corner,
  type DrawnPoint,
  fitted,
  type Loop,
  type Pair,
  pathOf,
  simplified,
  withPointAfter,
} from './nodes';
import {
  bent,
  type Chosen,
  handleAt,
  mirrored,
  nearestStretch,
  onAxis,
  onLine,
  pointAt,
  twinOf,
  without,
  withPoint,
} from './places';
import { nice, type Seen, seenWhole } from './sight';

type Props = {
  profile: boolean;
  /** With their curves, as they are shown. */
  loops: Loop[];
  /** As they are drawn: of a profile without handles. */
  drawn: Loop[];
  chosen: Chosen;
  tool: Tool;
  mirror: boolean;
  /** Rings of what stands around what is drawn. */
  around: number[][][];
  grid: number;
  snapping: boolean;
  onChoose: (chosen: Chosen) => void;
  onDraft: (loops: Loop[]) => void;
  onKeep: (loops: Loop[]) => void;
};

type Held =
  | { what: 'point'; loop: number; point: number; twin: Chosen }
  | { what: 'handle'; loop: number; point: number; which: 'before' | 'after' }
  | { what: 'sheet'; from: Pair; seen: Seen }
  | { what: 'stroke'; stroke: Pair[] }
  | { what: 'rubber' };

const POINT_PX = 6;
const REACH_PX = 11;
const STROKE_PX = 3;
/** How far a straight line from point to point may be off the stroke: the curve through them is much nearer. */
const FIT_PX = 6;

export function Sheet(props: Props) {
  const { profile, loops, drawn, chosen, tool, mirror, around, grid, snapping, onChoose, onDraft, onKeep } =
    props;
  const svg = useRef<SVGSVGElement>(null);
  const [size, setSize] = useState<Pair>([600, 500]);
  const [seen, setSeen] = useState<Seen | null>(null);
  const [stroke, setStroke] = useState<Pair[] | null>(null);
  const [corners, setCorners] = useState<Pair[]>([]);
  const held = useRef<Held | null>(null);
  const latest = useRef(drawn);
  latest.current = drawn;

  useEffect(() => {
    const node = svg.current;
    if (!node) return;
    const watch = new ResizeObserver(() => setSize([node.clientWidth, node.clientHeight]));
    watch.observe(node);
    return () => watch.disconnect();
  }, []);
  const now = seen ?? seenWhole(drawn, size, profile);
  // The first look stays, so that the sheet does not move under the hand.
  useEffect(() => setSeen(seenWhole(latest.current, size, profile)), [size[0], size[1], profile]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another tool begins anew
  useEffect(() => setCorners([]), [tool]);

  const px = (x: number, y: number): Pair => [
    size[0] / 2 + (x - now.x) / now.mm,
    size[1] / 2 - (y - now.y) / now.mm,
  ];
  const mm = (e: { clientX: number; clientY: number }): Pair => {
    const box = svg.current?.getBoundingClientRect();
    return [
      now.x + (e.clientX - (box?.left ?? 0) - size[0] / 2) * now.mm,
      now.y - (e.clientY - (box?.top ?? 0) - size[1] / 2) * now.mm,
    ];
  };
  /** To the grid, or to the level of another point. */
  const caught = ([x, y]: Pair, e: { altKey: boolean }, but: Chosen): Pair => {
    const free: Pair = [profile ? Math.max(0, x) : x, y];
    if (!snapping || e.altKey) return free;
    const step = nice(grid, now.mm);
    const others = drawn.flatMap((l, i) =>
      l.points.filter((_, k) => !(but && but.loop === i && but.point === k)),
    );
    const near = (v: number, values: number[]) => {
      const best = values.reduce(
        (a, b) => (Math.abs(b - v) < Math.abs(a - v) ? b : a),
        Number.POSITIVE_INFINITY,
      );
      return Math.abs(best - v) < 4 * now.mm ? best : Math.round(v / step) * step;
    };
    return [
      near(free[0], [0, ...others.map((p) => p.x)]),
      near(
        free[1],
        others.map((p) => p.y),
      ),
    ];
  };
  const put = (at: NonNullable<Chosen>, change: (p: DrawnPoint) => DrawnPoint, base = latest.current) =>
    withPoint(base, at, change);

  const down = (e: React.PointerEvent) => {
    if (e.button !== 0 && e.button !== 1) return;
    svg.current?.focus();
    svg.current?.setPointerCapture(e.pointerId);
    const at = mm(e);
    const hit = e.button === 0 ? pointAt(loops, at, REACH_PX * now.mm) : null;
    const handle =
      e.button === 0 && !profile && chosen ? handleAt(loops, chosen, at, REACH_PX * now.mm) : null;
    if (tool === 'pencil' && e.button === 0) {
      held.current = { what: 'stroke', stroke: [at] };
      setStroke([at]);
    } else if (tool === 'erase' && e.button === 0) {
      held.current = { what: 'rubber' };
      if (hit) onDraft(without(latest.current, hit));
    } else if (tool === 'corners' && e.button === 0) {
      if (profile) addToProfile(caught(at, e, null));
      else addCorner(caught(at, e, null), at);
    } else if (handle) {
      held.current = { what: 'handle', ...(chosen as NonNullable<Chosen>), which: handle };
    } else if (hit) {
      onChoose(hit);
      held.current = { what: 'point', ...hit, twin: mirror ? twinOf(drawn, hit) : null };
    } else {
      held.current = { what: 'sheet', from: [e.clientX, e.clientY], seen: now };
    }
  };
  const move = (e: React.PointerEvent) => {
    const hold = held.current;
    if (!hold) return;
    const at = mm(e);
    if (hold.what === 'sheet') {
      const by = [e.clientX - hold.from[0], e.clientY - hold.from[1]];
      setSeen({
        ...hold.seen,
        x: hold.seen.x - (by[0] as number) * hold.seen.mm,
        y: hold.seen.y + (by[1] as number) * hold.seen.mm,
      });
    } else if (hold.what === 'point') {
      const [x, y] = caught(at, e, hold);
      let next = put(hold, (p) => ({ ...p, x, y }));
      if (hold.twin) next = put(hold.twin, (p) => ({ ...p, x: -x, y }), next);
      else if (mirror && onLine(latest.current, hold)) next = put(hold, (p) => ({ ...p, x: 0, y }));
      onDraft(next);
    } else if (hold.what === 'handle') {
      onDraft(put(hold, (p) => bent(p, hold.which, [at[0] - p.x, at[1] - p.y], e.altKey)));
    } else if (hold.what === 'stroke') {
      const last = hold.stroke[hold.stroke.length - 1] as Pair;
      if (Math.hypot(at[0] - last[0], at[1] - last[1]) < STROKE_PX * now.mm) return;
      hold.stroke.push(profile ? [Math.max(0, at[0]), at[1]] : at);
      setStroke([...hold.stroke]);
    } else {
      const hit = pointAt(loops, at, REACH_PX * now.mm);
      if (hit) onDraft(without(latest.current, hit));
    }
  };
  const up = (e: React.PointerEvent) => {
    const hold = held.current;
    held.current = null;
    if (!hold) return;
    if (hold.what === 'stroke') {
      setStroke(null);
      if (hold.stroke.length > 4) takeStroke(hold.stroke);
    } else if (hold.what === 'sheet') {
      if (Math.hypot(e.clientX - hold.from[0], e.clientY - hold.from[1]) < 4) onChoose(null);
    } else onKeep(latest.current);
  };

  const takeStroke = (drawnStroke: Pair[]) => {
    const off = FIT_PX * now.mm;
    if (profile) {
      const points = simplified(drawnStroke, off).map(([x, y]) => ({ ...corner(x, y), smooth: true }));
      onKeep([{ closed: false, points }]);
      return;
    }
    const loop = fitted(mirror ? [...drawnStroke, ...mirrored(drawnStroke)] : drawnStroke, off);
    if (loop.points.length > 2) onKeep([...latest.current, loop]);
  };
  const addToProfile = ([x, y]: Pair) => {
    const [loop] = latest.current;
    if (!loop) return;
    const after = chosen ? chosen.point : loop.points.length - 1;
    const points = [...loop.points.slice(0, after + 1), corner(x, y), ...loop.points.slice(after + 1)];
    onKeep([{ ...loop, points }]);
    onChoose({ loop: 0, point: after + 1 });
  };
  const close = (points: Pair[]) => {
    setCorners([]);
    const whole = mirror ? [...points, ...mirrored(points)] : points;
    if (whole.length > 2)
      onKeep([...latest.current, { closed: true, points: whole.map(([x, y]) => corner(x, y)) }]);
  };
  const addCorner = (at: Pair, pointed: Pair) => {
    const first = corners[0];
    if (
      first &&
      corners.length > 2 &&
      Math.hypot(pointed[0] - first[0], pointed[1] - first[1]) < REACH_PX * now.mm
    )
      close(corners);
    else setCorners([...corners, at]);
  };
  const double = (e: React.MouseEvent) => {
    if (tool !== 'move') return;
    const at = mm(e);
    if (pointAt(loops, at, REACH_PX * now.mm)) return;
    const found = nearestStretch(loops, at);
    if (!found || found.away > 2 * REACH_PX * now.mm) return;
    const next = latest.current.map((l, i) => {
      if (i !== found.loop) return l;
      if (!profile) return withPointAfter(l, found.after);
      const points = [...l.points];
      const smooth = (l.points[found.after]?.smooth ?? false) || (l.points[found.after + 1]?.smooth ?? false);
      points.splice(found.after + 1, 0, { ...corner(...caught(at, e, null)), smooth });
      return { ...l, points };
    });
    onKeep(next);
    onChoose({ loop: found.loop, point: found.after + 1 });
  };
  const key = (e: React.KeyboardEvent) => {
    const step = nice(grid, now.mm) / (e.shiftKey ? 10 : 1);
    const ways: Record<string, Pair> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step],
    };
    const way = ways[e.key];
    let done = true;
    if (way && chosen)
      onKeep(
        put(chosen, (p) => ({
          ...p,
          x: profile ? Math.max(0, p.x + way[0]) : p.x + way[0],
          y: p.y + way[1],
        })),
      );
    else if ((e.key === 'Delete' || e.key === 'Backspace') && chosen) {
      onKeep(without(latest.current, chosen));
      onChoose(null);
    } else if (e.key === 'Enter' && corners.length > 2) close(corners);
    else if (e.key === 'Escape' && (corners.length || chosen)) {
      setCorners([]);
      onChoose(null);
    } else if (e.key === 'Tab' && !e.ctrlKey && !e.shiftKey && drawn[chosen?.loop ?? 0] && chosen) {
      const count = (drawn[chosen.loop] as Loop).points.length;
      if (chosen.point + 1 < count) onChoose({ ...chosen, point: chosen.point + 1 });
      else done = false;
    } else done = false;
    if (done) {
      e.preventDefault();
      e.stopPropagation();
    }
  };
  const wheel = (e: React.WheelEvent) => {
    const at = mm(e);
    const next = Math.min(5, Math.max(0.001, now.mm * 1.15 ** Math.sign(e.deltaY)));
    const share = next / now.mm;
    setSeen({ mm: next, x: at[0] + (now.x - at[0]) * share, y: at[1] + (now.y - at[1]) * share });
  };

  const placed = (x: number, y: number) =>
    px(x, y)
      .map((v) => v.toFixed(2))
      .join(' ');
  const path = pathOf(loops, placed);
  const [axis] = px(0, 0);
  const chosenPoint = chosen ? loops[chosen.loop]?.points[chosen.point] : undefined;
  return (
    <svg
      ref={svg}
      className={`sheet ${tool}`}
      role="application"
      aria-label="Drawing"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: arrow keys move the chosen point
      tabIndex={0}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onDoubleClick={double}
      onKeyDown={key}
      onWheel={wheel}
    >
      <Grid now={now} size={size} px={px} grid={grid} />
      <Around rings={around} placed={placed} />
      {profile && (
        <path
          className="area mirrored"
          d={pathOf(
            loops.map((l) => onAxis(l, -1)),
            placed,
          )}
        />
      )}
      <path
        className="area"
        fillRule="evenodd"
        d={
          profile
            ? pathOf(
                loops.map((l) => onAxis(l, 1)),
                placed,
              )
            : path
        }
      />
      {(profile || mirror) && <line className="axis" x1={axis} x2={axis} y1={0} y2={size[1]} />}
      {profile && (
        <text className="axis-word" x={axis + 6} y={16}>
          axis
        </text>
      )}
      <path className="line" d={path} />
      {stroke && <polyline className="stroke" points={stroke.map((p) => px(...p).join()).join(' ')} />}
      {corners.length > 0 && (
        <polyline className="stroke" points={corners.map((p) => px(...p).join()).join(' ')} />
      )}
      {corners.map((p, i) => {
        const [x, y] = px(...p);
        // biome-ignore lint/suspicious/noArrayIndexKey: a corner has no other name
        return <circle key={i} className={i ? 'corner' : 'corner first'} cx={x} cy={y} r={POINT_PX - 1} />;
      })}
      {!profile && chosenPoint && <Handles point={chosenPoint} px={px} />}
      {loops.flatMap((l, i) =>
        l.points.map((p, k) => {
          const [x, y] = px(p.x, p.y);
          const on = chosen?.loop === i && chosen.point === k;
          const look = `point ${p.smooth ? 'smooth' : ''} ${on ? 'chosen' : ''}`;
          return p.smooth ? (
            // biome-ignore lint/suspicious/noArrayIndexKey: a point has no other name
            <circle key={`${i} ${k}`} className={look} cx={x} cy={y} r={POINT_PX} data-point={`${i} ${k}`} />
          ) : (
            <rect
              // biome-ignore lint/suspicious/noArrayIndexKey: a point has no other name
              key={`${i} ${k}`}
              className={look}
              x={x - POINT_PX + 1}
              y={y - POINT_PX + 1}
              width={2 * POINT_PX - 2}
              height={2 * POINT_PX - 2}
              data-point={`${i} ${k}`}
            />
          );
        }),
      )}
    </svg>
  );
}

/** What stands around what is drawn, hatched. */
function Around({ rings, placed }: { rings: number[][][]; placed: (x: number, y: number) => string }) {
  if (!rings.length) return null;
  const path = rings
    .map((ring) => `M${ring.map(([x, y]) => placed(x as number, y as number)).join(' L')} Z`)
    .join(' ');
  return (
    <g className="around" data-testid="around">
      <pattern id="hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="7" />
      </pattern>
      <path d={path} fillRule="nonzero" />
    </g>
  );
}

function Handles({ point, px }: { point: DrawnPoint; px: (x: number, y: number) => Pair }) {
  const [x, y] = px(point.x, point.y);
  return (['before', 'after'] as const).map((which) => {
    const [dx, dy] = point[which];
    if (Math.hypot(dx, dy) < 1e-6) return null;
    const [hx, hy] = px(point.x + dx, point.y + dy);
    return (
      <g key={which} className="handle">
        <line x1={x} y1={y} x2={hx} y2={hy} />
        <circle cx={hx} cy={hy} r={POINT_PX - 1.5} data-handle={which} />
      </g>
    );
  });
}
