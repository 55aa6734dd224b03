/** Handles of the chosen part's shape changes: the plane of a flattened side, the ends of a stretched region. */
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
type Hold = { label: string; at: Vector; along: Vector; drawn: (by: number) => ShapeChange };

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
      return [
        {
          label: 'The flattened side',
          at: on(axis, (up ? high : low)[axis] as number),
          along: way(axis, up ? -1 : 1),
          drawn: (by) => ({ ...change, depth: Math.max(0.01, Number((change.depth + by).toFixed(4))) }),
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
    default:
      return [];
  }
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
        reins.show({
          carried: new Map(),
          said: `${hold.label.toLowerCase()}: ${short(by, 2)} mm`,
          edit: by ? put(hold.drawn(by)) : null,
          catches: [],
        });
      };
    },
    end: reins.letGo,
    cancel: reins.cancel,
  };
}
