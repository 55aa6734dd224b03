/** Pulling a piece apart: what it is built from, each line of the recipe drawn out of the others, groups as one. */
import * as THREE from 'three';
import type { PartView, Scene } from '../api/client';
import { type Known, parentsOf } from '../controls/tree';
import { matrixOf } from './meshes';

/** A line of the recipe that goes by itself. number: as in the recipe, "2.1" the first of line 2. */
export type Unit = { id: string; number: string; leaves: string[]; box: THREE.Box3 };

/** The lines that go by themselves: those of the wheel, and those of the groups that were gone into. */
export function unitsOf(scene: Scene, known: Map<string, Known>, inside: string | null): Unit[] {
  const opened = new Set(inside ? [...parentsOf(known, inside), inside] : []);
  const units = new Map<string, Unit>();
  for (const view of scene.parts) {
    const part = known.get(view.id);
    if (!part || part.part.join || part.reference || !view.own || view.matrices.length === 0) continue;
    const line = [...parentsOf(known, view.id), view.id];
    const at = line.findIndex((id) => !opened.has(id));
    const id = line[at] as string;
    const unit = units.get(id) ?? {
      id,
      number: line
        .slice(0, at + 1)
        .map((of) => (known.get(of)?.index ?? 0) + 1)
        .join('.'),
      leaves: [],
      box: new THREE.Box3(),
    };
    unit.leaves.push(view.id);
    unit.box.union(originalBox(view));
    units.set(id, unit);
  }
  return [...units.values()];
}

/** Around a part's original alone: its copies follow it, each in its own frame. */
function originalBox({ own, matrices }: PartView): THREE.Box3 {
  const [low, high] = own as NonNullable<PartView['own']>;
  const box = new THREE.Box3(new THREE.Vector3(...low), new THREE.Vector3(...high));
  return box.applyMatrix4(matrixOf(matrices[0] as number[]));
}

const AXES = [
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
].map((axis) => new THREE.Vector3(...axis));

/** More are drawn out from the middle, each as far as it is from there. */
const MOST_PLACED = 300;

/** Between two that were pulled apart, of the size of the whole. */
const GAP = 0.06;

/**
 * How far each unit is drawn out, when all the way, mm: out of the piece, clear of all that stands there by then, never
 * under the wheel. The first of the recipe stays among them; the nearer to it, the sooner its turn.
 */
export function pulledApart(units: Unit[]): Map<string, THREE.Vector3> {
  const found = new Map<string, THREE.Vector3>();
  const [body] = units;
  if (!body) return found;
  const middle = body.box.getCenter(new THREE.Vector3());
  const whole = units.reduce((all, { box }) => all.union(box), new THREE.Box3());
  const gap = GAP * whole.getSize(new THREE.Vector3()).length();
  const out = (unit: Unit) => unit.box.getCenter(new THREE.Vector3()).sub(middle);
  found.set(body.id, new THREE.Vector3());
  if (units.length > MOST_PLACED) {
    for (const unit of units.slice(1)) found.set(unit.id, out(unit));
    return aboveFloor(units, found);
  }
  const placed = [body.box.clone()];
  const later = units.slice(1).sort((a, b) => out(a).length() - out(b).length());
  for (const unit of later) {
    const outward = out(unit);
    if (outward.length() < 1e-6 * gap) outward.set(0, 0, 1);
    outward.normalize();
    let best = { cost: Number.POSITIVE_INFINITY, by: new THREE.Vector3() };
    for (const way of [outward, ...AXES]) {
      const far = clearOf(unit.box, way, placed, gap);
      // Rather a little farther than against the way out.
      const cost = far * (1.6 - 0.6 * way.dot(outward)) + (way.dot(outward) < 0 ? far : 0);
      if (cost < best.cost) best = { cost, by: way.clone().multiplyScalar(far) };
    }
    found.set(unit.id, best.by);
    placed.push(unit.box.clone().translate(best.by));
  }
  return aboveFloor(units, found);
}

/** All of it raised, so that nothing is drawn out to under the wheel. */
function aboveFloor(units: Unit[], by: Map<string, THREE.Vector3>): Map<string, THREE.Vector3> {
  const floor = Math.min(0, ...units.map(({ box }) => box.min.z));
  const lowest = Math.min(...units.map(({ id, box }) => box.min.z + (by.get(id)?.z ?? 0)));
  if (lowest < floor) for (const way of by.values()) way.z += floor - lowest;
  return by;
}

/** How far along a way a box has to go until it is a gap clear of all that is placed; a gap at least. */
function clearOf(box: THREE.Box3, way: THREE.Vector3, placed: THREE.Box3[], gap: number): number {
  let far = gap;
  for (let again = 0; again <= placed.length; again++) {
    const here = box.clone().translate(way.clone().multiplyScalar(far));
    const met = placed.find((other) =>
      other
        .clone()
        .expandByScalar(gap * 0.999)
        .intersectsBox(here),
    );
    if (!met) return far;
    const exits = (['x', 'y', 'z'] as const).flatMap((axis) => {
      if (Math.abs(way[axis]) < 1e-9) return [];
      const rest =
        way[axis] > 0 ? met.max[axis] + gap - here.min[axis] : met.min[axis] - gap - here.max[axis];
      return [rest / way[axis]];
    });
    far += Math.max(Math.min(...exits), 1e-3 * gap);
  }
  return far;
}

/** Around all of it, pulled apart by a share. */
export function apartBox(scene: Scene | null, known: Map<string, Known>, inside: string | null): THREE.Box3 {
  const box = new THREE.Box3();
  if (!scene) return box;
  const units = unitsOf(scene, known, inside);
  const by = pulledApart(units);
  for (const unit of units) box.union(unit.box.clone().translate(by.get(unit.id) as THREE.Vector3));
  return box;
}
