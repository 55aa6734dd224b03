/** Carrying parts in the view before they are let go of. */
import * as THREE from 'three';
import type { Edit } from '../api/client';
import type { Drag, Vector } from '../controls/editor';
import { idsWithin, type Known } from '../controls/tree';

/** Where all copies of a part stand when its original is carried by `carried`, a map of the wheel. */
export function copiesCarried(
  matrices: THREE.Matrix4[],
  carried: THREE.Matrix4 | undefined,
): THREE.Matrix4[] {
  const [first] = matrices;
  if (!carried || !first) return matrices;
  const own = first.clone().invert().multiply(carried).multiply(first);
  return matrices.map((m) => m.clone().multiply(own));
}

/** For every part that a drag takes along, how it is carried. */
export function carriedParts(known: Map<string, Known>, drag: Drag | null): Map<string, THREE.Matrix4> {
  const found = new Map<string, THREE.Matrix4>();
  for (const [id, matrix] of drag?.carried ?? []) {
    const part = known.get(id)?.part;
    for (const inner of part ? idsWithin(part) : []) found.set(inner, matrix);
  }
  return found;
}

/** `ids` without those that lie in another one of them: they go with it. */
export function outermost(known: Map<string, Known>, ids: string[]): string[] {
  const within = new Set(ids.flatMap((id) => idsWithin(known.get(id)?.part as never).slice(1)));
  return ids.filter((id) => !within.has(id));
}

export function moved(ids: string[], by: Vector): Pick<Drag, 'carried' | 'edit'> {
  const matrix = new THREE.Matrix4().makeTranslation(...by);
  return {
    carried: new Map(ids.map((id) => [id, matrix])),
    edit: by.some((v) => v !== 0) ? { kind: 'move', ids, by } : null,
  };
}

export function turned(
  ids: string[],
  axis: Vector,
  angle: number,
  centre: Vector,
): Pick<Drag, 'carried' | 'edit'> {
  const to = new THREE.Vector3(...centre);
  const matrix = new THREE.Matrix4()
    .makeTranslation(to)
    .multiply(new THREE.Matrix4().makeRotationAxis(new THREE.Vector3(...axis), (angle * Math.PI) / 180))
    .multiply(new THREE.Matrix4().makeTranslation(to.clone().negate()));
  const edit: Edit = {
    kind: 'carry',
    how: 'Turned',
    moves: ids.map((id) => ({ id, turn: { axis, angle, centre }, by: [0, 0, 0] as Vector })),
  };
  return { carried: new Map(ids.map((id) => [id, matrix])), edit: angle === 0 ? null : edit };
}

/** Round to steps, without the noise of binary fractions. */
export const toStep = (value: number, step: number): number =>
  Number((Math.round(value / step) * step).toFixed(6)) + 0;
