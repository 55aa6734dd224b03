/** A small square on each side of the measured frame: drags that side, the other one stays. */
import * as THREE from 'three';
import type { PartView } from '../../api/client';
import { useEditor, type Vector } from '../../controls/editor';
import { short } from '../../controls/format';
import { HELD } from '../../controls/held';
import { toStep } from '../carry';
import type { DragContext } from '../dragContext';
import { matrixOf } from '../meshes';
import { alongAxis } from '../pointer';
import { Grip, type Pull } from './Grip';

const SIDES = [
  ['left', 'right'],
  ['front', 'back'],
  ['foot', 'top'],
] as const;
const LEAST_MM = 0.1;

export function StretchGrips({ context, view }: { context: DragContext; view: PartView }) {
  const rows = view.matrices[0];
  const { own, size } = view;
  if (!rows || !own || !size) return null;
  const matrix = matrixOf(rows);
  return [0, 1, 2].flatMap((axis) =>
    [0, 1].map((end) => {
      const facing = new THREE.Vector3().setFromMatrixColumn(matrix, axis).normalize();
      if (end === 0) facing.negate();
      const at = ownPoint(own, [0.5, 0.5, 0.5], axis, end).applyMatrix4(matrix);
      return (
        <Grip
          key={`${axis}${end}`}
          kind="stretch"
          label={`Stretch the ${SIDES[axis]?.[end]}`}
          pivot={at}
          at={() => at}
          facing={facing}
          pull={stretch(context, view.id, { own, size, matrix }, axis, end, at)}
        />
      );
    }),
  );
}

type Box = { own: [Vector, Vector]; size: Vector; matrix: THREE.Matrix4 };

function stretch(
  context: DragContext,
  id: string,
  box: Box,
  axis: number,
  end: number,
  at: THREE.Vector3,
): Pull {
  const { own, size, matrix } = box;
  return {
    begin: (ray) => {
      const way = new THREE.Vector3().setFromMatrixColumn(matrix, axis).normalize();
      if (end === 0) way.negate();
      const start = alongAxis(ray, at, way);
      if (start === null) return null;
      return (r) => {
        const now = alongAxis(r, at, way);
        if (now === null) return;
        const old = size[axis] as number;
        const pulled = (now - start) * (HELD.middle() ? 2 : 1);
        const step = HELD.free() ? 0.001 : context.preferences.grid_mm / (HELD.fine() ? 10 : 1);
        const wanted = Math.max(LEAST_MM, pulled === 0 ? old : toStep(old + pulled, step));
        const even = HELD.proportion() || useEditor.getState().proportions;
        const factor = wanted / old;
        const factors = [0, 1, 2].map((i) => (i === axis || even ? factor : 1));
        const hold = [0, 1, 2].map((i) =>
          HELD.middle() ? 0.5 : i === axis ? 1 - end : i === 2 ? 0 : 0.5,
        ) as Vector;
        const next = size.map((s, i) => (i === axis ? wanted : s * (factors[i] as number))) as Vector;
        const stays = ownPoint(own, hold);
        const carried = matrix
          .clone()
          .multiply(new THREE.Matrix4().makeTranslation(stays))
          .multiply(new THREE.Matrix4().makeScale(...(factors as Vector)))
          .multiply(new THREE.Matrix4().makeTranslation(stays.clone().negate()))
          .multiply(matrix.clone().invert());
        context.show({
          carried: new Map([[id, carried]]),
          said: `${next.map((v) => short(v, 2)).join(' × ')} mm · ${wanted >= old ? '+' : '−'}${short(Math.abs(wanted - old), 2)}`,
          edit: wanted === old ? null : { kind: 'resize', id, size: next, was: size, hold, own },
          snaps: [],
        });
      };
    },
    end: context.letGo,
    cancel: context.cancel,
  };
}

/** A point of the own box: shares of its sides, one axis at a given end. */
function ownPoint([low, high]: [Vector, Vector], shares: Vector, axis?: number, end?: number): THREE.Vector3 {
  const at = [0, 1, 2].map((i) => {
    const share = i === axis ? (end as number) : (shares[i] as number);
    return (low[i] as number) + ((high[i] as number) - (low[i] as number)) * share;
  });
  return new THREE.Vector3(...(at as Vector));
}
