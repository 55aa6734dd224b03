/** Handles of the chosen part's shape changes: the plane of a flattened side, the end of a stretched region, how far a
 * top is bent, turned or narrowed. */
import * as THREE from 'three';
import type { Edit, PartView, ShapeChange } from '../../api/client';
import { useEditor, type Vector } from '../../controls/editor';
import { short } from '../../controls/format';
import { HELD } from '../../controls/held';
import { toStep } from '../carry';
import { matrixOf } from '../meshes';
import { alongAxis } from '../pointer';
import type { Reins } from '../reins';
import { Grip, type Pull } from './Grip';

const BESIDE_PX = 30;

/** One thing to hold: a point and a way in the part's own frame, and the change when it is drawn `by` mm that way. */
type Hold = {
  label: string;
  at: Vector;
  along: Vector;
  drawn: (by: number) => ShapeChange;
  /** What the drawn change is by then, in its own unit. */
  said?: (to: ShapeChange) => string;
};

export function ChangeGrips({ reins }: { reins: Reins }) {
  const { chosen, tool } = useEditor();
  const [id] = chosen;
  const part = id ? reins.known.get(id)?.part : undefined;
  const view = reins.scene.parts.find((p) => p.id === id);
  if (!id || !part || !view?.own || chosen.length > 1 || tool !== 'hand' || part.locked) return null;
  const frame = matrixOf(view.matrices[0] ?? []);
  return part.changes.flatMap((change, index) =>
    change.off
      ? []
      : holds(change, view).map((hold) => {
          const at = new THREE.Vector3(...hold.at).applyMatrix4(frame);
          const put = (to: ShapeChange): Edit => ({
            kind: 'set_changes',
            id,
            stack: part.changes.map((c, i) => (i === index ? to : c)) as never,
          });
          return (
            <Grip
              // biome-ignore lint/suspicious/noArrayIndexKey: a change has no other name
              key={`${index} ${hold.label}`}
              kind="copy"
              label={hold.label}
              pivot={at}
              // Beside the point, where the grips of the part's own frame do not cover it.
              at={(mm) =>
                at
                  .clone()
                  .addScaledVector(new THREE.Vector3(...hold.along).transformDirection(frame), BESIDE_PX * mm)
              }
              pull={pull(reins, hold, at, frame, put)}
            />
          );
        }),
  );
}

function holds(change: ShapeChange, view: PartView): Hold[] {
  const [low, high] = view.own as [Vector, Vector];
  const middle = low.map((v, i) => (v + (high[i] as number)) / 2) as Vector;
  const on = (axis: number, value: number) => middle.map((v, i) => (i === axis ? value : v)) as Vector;
  const way = (axis: number, sign = 1) => [0, 1, 2].map((i) => (i === axis ? sign : 0)) as Vector;
  switch (change.kind) {
    case 'flatten': {
      const axis = 'xyz'.indexOf(change.side[0] as string);
      const up = change.side[1] === '+';
      // Short of the whole: something has to be left.
      const most = change.depth + 0.95 * ((high[axis] as number) - (low[axis] as number));
      return [
        {
          label: 'The flattened side',
          at: on(axis, (up ? high : low)[axis] as number),
          along: way(axis, up ? -1 : 1),
          drawn: (by) => ({ ...change, depth: within(change.depth + by, 0.01, most) }),
        },
      ];
    }
    case 'stretch': {
      const axis = 'xyz'.indexOf(change.axis);
      return [
        {
          label: 'How much longer the region is',
          at: on(axis, change.high + change.by),
          along: way(axis),
          drawn: (by) => ({
            ...change,
            by: Math.max(change.low - change.high + 0.01, Number((change.by + by).toFixed(4))),
          }),
        },
      ];
    }
    case 'bend': {
      const axis = 'xyz'.indexOf(change.axis);
      const turn = (change.towards * Math.PI) / 180;
      const long = (high[axis] as number) - (low[axis] as number);
      return [
        {
          label: 'How far the top is bent',
          at: on(axis, high[axis] as number),
          along: across(axis, Math.cos(turn), Math.sin(turn)),
          // The end of an arc of length l goes sideways by about l · angle / 2.
          drawn: (by) => ({ ...change, angle: within(change.angle + degrees((2 * by) / long), -350, 350) }),
          said: (to) => (to.kind === 'bend' ? `${short(to.angle, 1)}°` : ''),
        },
      ];
    }
    case 'twist': {
      const axis = 'xyz'.indexOf(change.axis);
      const rim = (axis + 1) % 3;
      const reach = ((high[rim] as number) - (low[rim] as number)) / 2;
      const at = on(axis, high[axis] as number).map((v, i) => (i === rim ? v + reach : v)) as Vector;
      return [
        {
          label: 'How far the top is turned',
          at,
          along: across(axis, 0, 1),
          drawn: (by) => ({ ...change, angle: within(change.angle + degrees(by / reach), -7200, 7200) }),
          said: (to) => (to.kind === 'twist' ? `${short(to.angle, 1)}°` : ''),
        },
      ];
    }
    case 'taper': {
      const axis = 'xyz'.indexOf(change.axis);
      const rim = (axis + 1) % 3;
      // The box is that of the tapered part: its widest end is the low one, or the top where that is wider.
      const wide = ((high[rim] as number) - (low[rim] as number)) / 2 / Math.max(1, change.top);
      const at = on(axis, high[axis] as number).map((v, i) =>
        i === rim ? v + wide * change.top : v,
      ) as Vector;
      return [
        {
          label: 'How wide the top is',
          at,
          along: way(rim),
          drawn: (by) => ({ ...change, top: within(change.top + by / wide, 0.01, 100) }),
          said: (to) => (to.kind === 'taper' ? `${short(to.top, 2)} of its width` : ''),
        },
      ];
    }
    default:
      return [];
  }
}

const degrees = (radians: number) => (radians * 180) / Math.PI;

const within = (value: number, least: number, most: number) =>
  Number(Math.min(most, Math.max(least, value)).toFixed(3));

/** The way that is `u` along the next axis after `axis` and `v` along the one after that. */
function across(axis: number, u: number, v: number): Vector {
  const found: Vector = [0, 0, 0];
  found[(axis + 1) % 3] = u;
  found[(axis + 2) % 3] = v;
  return found;
}

function pull(
  reins: Reins,
  hold: Hold,
  at: THREE.Vector3,
  frame: THREE.Matrix4,
  put: (change: ShapeChange) => Edit,
): Pull {
  const axis = new THREE.Vector3(...hold.along).transformDirection(frame);
  return {
    begin: (ray) => {
      const start = alongAxis(ray, at, axis);
      if (start === null) return null;
      const step = reins.preferences.grid_mm;
      return (r) => {
        const now = alongAxis(r, at, axis);
        if (now === null) return;
        const by = toStep(now - start, HELD.free() ? 0.01 : step / (HELD.fine() ? 10 : 1));
        const to = hold.drawn(by);
        reins.show({
          carried: new Map(),
          said: `${hold.label.toLowerCase()}: ${hold.said?.(to) ?? `${short(by, 2)} mm`}`,
          edit: by ? put(to) : null,
          catches: [],
        });
      };
    },
    end: reins.letGo,
    cancel: reins.cancel,
  };
}
