/** The copies of the chosen part, held in the view: the step of a row or grid, the middle of a ring, the plane of a twin, the points of a path. */

import * as THREE from 'three';
import type { Copies, Edit } from '../../api/client';
import { useEditor, type Vector } from '../../controls/editor';
import { short } from '../../controls/format';
import { HELD } from '../../controls/held';
import { parentsOf } from '../../controls/tree';
import { toStep } from '../carry';
import type { DragContext } from '../dragContext';
import { matrixOf } from '../meshes';
import { alongAxis } from '../pointer';
import { Grip, type Pull } from './Grip';

/** One thing to hold: where it is in the part's parent's frame, and the copies with it elsewhere. */
type Hold = { label: string; at: Vector; along?: Vector; moved: (at: Vector) => Copies };

export function CopyGrips({ context }: { context: DragContext }) {
  const chosen = useEditor((s) => s.chosen);
  const [id] = chosen;
  const known = id ? context.known.get(id) : undefined;
  const copies = known?.part.copies;
  if (!id || !known || !copies || chosen.length > 1 || known.part.locked) return null;
  const parent = parentsOf(context.known, id).pop();
  const row = parent ? context.scene.parts.find((p) => p.id === parent)?.matrices[0] : undefined;
  const frame = row ? matrixOf(row) : new THREE.Matrix4();
  return holds(copies, known.part.place.position).map((hold) => {
    const at = new THREE.Vector3(...hold.at).applyMatrix4(frame);
    return (
      <Grip
        key={hold.label}
        kind="copy"
        label={hold.label}
        pivot={at}
        at={() => at}
        pull={pull(context, id, hold, at, frame)}
      />
    );
  });
}

function holds(copies: Copies, position: Vector): Hold[] {
  const plus = (v: Vector, w: Vector, sign = 1) => v.map((a, i) => a + sign * (w[i] as number)) as Vector;
  switch (copies.kind) {
    case 'row':
      return [
        {
          label: 'The next copy of the row',
          at: plus(position, copies.step),
          moved: (at) => ({ ...copies, step: plus(at, position, -1) }),
        },
      ];
    case 'grid':
      return [
        {
          label: 'The next copy of the grid',
          at: plus(position, copies.step),
          moved: (at) => ({ ...copies, step: plus(at, position, -1) }),
        },
      ];
    case 'ring':
      return [
        { label: 'The middle of the ring', at: copies.centre, moved: (centre) => ({ ...copies, centre }) },
      ];
    case 'twin': {
      const axis = 'xyz'.indexOf(copies.axis);
      const at = position.map((v, i) => (i === axis ? copies.at : v)) as Vector;
      const along = [0, 1, 2].map((i) => (i === axis ? 1 : 0)) as Vector;
      return [
        { label: 'The plane of the twin', at, along, moved: (to) => ({ ...copies, at: to[axis] as number }) },
      ];
    }
    case 'path':
      return copies.points.map((at, n) => ({
        label: `Point ${n + 1} of the path`,
        at,
        moved: (to) => ({ ...copies, points: copies.points.map((p, i) => (i === n ? to : p)) }),
      }));
  }
}

/** Over the floor through the grip, along the twin's axis, or, with F held down, in the plane of the view. */
function pull(context: DragContext, id: string, hold: Hold, at: THREE.Vector3, frame: THREE.Matrix4): Pull {
  return {
    begin: (ray) => {
      const normal = HELD.free() ? ray.direction.clone() : new THREE.Vector3(0, 0, 1);
      const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(normal, at);
      const axis = hold.along && new THREE.Vector3(...hold.along).transformDirection(frame);
      const where = (r: THREE.Ray): THREE.Vector3 | null => {
        if (!axis) return r.intersectPlane(plane, new THREE.Vector3());
        const t = alongAxis(r, at, axis);
        return t === null ? null : at.clone().addScaledVector(axis, t);
      };
      const start = where(ray);
      if (!start) return null;
      const back = frame.clone().invert();
      const step = context.preferences.grid_mm;
      return (r) => {
        const now = where(r);
        if (!now) return;
        const by = now
          .sub(start)
          .toArray()
          .map((v) => toStep(v, HELD.free() ? 0.01 : step / (HELD.fine() ? 10 : 1)));
        const to = at
          .clone()
          .add(new THREE.Vector3(...(by as Vector)))
          .applyMatrix4(back)
          .toArray();
        const copies = hold.moved(to.map((v) => Number(v.toFixed(6)) + 0) as Vector);
        const edit: Edit = { kind: 'set_part', ids: [id], fields: { copies } as never };
        context.show({
          carried: new Map(),
          said: `${hold.label.toLowerCase()}: ${by.map((v) => short(v, 2)).join(', ')} mm`,
          edit: by.some((v) => v !== 0) ? edit : null,
          snaps: [],
        });
      };
    },
    end: context.letGo,
    cancel: context.cancel,
  };
}
