/** What dragged parts are caught by: the grid, and the sides and middles of other parts. */
import * as THREE from 'three';
import type { Scene } from '../api/client';
import type { Catch, Vector } from '../controls/editor';
import type { Known } from '../controls/tree';

const SIDES = [
  ['left side', 'middle', 'right side'],
  ['front', 'middle', 'back'],
  ['foot', 'middle', 'top'],
] as const;

type Spot = { value: number; level: 0 | 1 | 2; name: string; box: THREE.Box3 };

export class Catcher {
  private readonly spots: Spot[][];
  readonly box: THREE.Box3;

  /** moving: the parts dragged and all in them. */
  constructor(scene: Scene, known: Map<string, Known>, moving: Set<string>, ids: string[]) {
    this.box = boxOf(scene, ids);
    this.spots = [0, 1, 2].map((axis) => {
      const wheel = { level: 1 as const, name: 'the wheel', box: new THREE.Box3() };
      const found: Spot[] = [{ ...wheel, value: 0, level: axis === 2 ? 0 : 1 }];
      for (const view of scene.parts) {
        const part = known.get(view.id);
        if (!view.box || !part || part.hidden || moving.has(view.id) || part.role !== 'union') continue;
        const box = new THREE.Box3(new THREE.Vector3(...view.box[0]), new THREE.Vector3(...view.box[1]));
        const [low, high] = [view.box[0][axis] as number, view.box[1][axis] as number];
        [low, (low + high) / 2, high].forEach((value, level) => {
          found.push({ value, level: level as 0 | 1 | 2, name: part.part.name, box });
        });
      }
      return found;
    });
  }

  /** `by` with every free axis caught by what lies within `reach` mm, and what caught it. */
  caught(by: Vector, free: [boolean, boolean, boolean], reach: number): { by: Vector; catches: Catch[] } {
    const found: Vector = [...by];
    const catches: Catch[] = [];
    const held: { axis: number; spot: Spot }[] = [];
    for (const axis of [0, 1, 2]) {
      if (!free[axis] || this.box.isEmpty()) continue;
      const [low, high] = [this.box.min.getComponent(axis), this.box.max.getComponent(axis)];
      const own = [low, (low + high) / 2, high];
      let best: { off: number; spot: Spot } | null = null;
      for (const spot of this.spots[axis] as Spot[]) {
        own.forEach((mine, level) => {
          // Middles meet middles; sides meet sides.
          if ((level === 1) !== (spot.level === 1)) return;
          const off = spot.value - (mine + (by[axis] as number));
          if (Math.abs(off) <= reach && (!best || Math.abs(off) < Math.abs(best.off) - 1e-9))
            best = { off, spot };
        });
      }
      if (!best) continue;
      const { off, spot } = best as { off: number; spot: Spot };
      found[axis] = Number(((by[axis] as number) + off).toFixed(9)) + 0;
      held.push({ axis, spot });
    }
    const now = this.box.clone().translate(new THREE.Vector3(...found));
    for (const { axis, spot } of held) catches.push(mark(now, axis, spot));
    return { by: found, catches };
  }
}

/** A line in the plane that caught, from the other part's middle to the dragged one's. */
function mark(now: THREE.Box3, axis: number, spot: Spot): Catch {
  const to = now.getCenter(new THREE.Vector3()).setComponent(axis, spot.value);
  const from = (spot.box.isEmpty() ? to.clone() : spot.box.getCenter(new THREE.Vector3())).setComponent(
    axis,
    spot.value,
  );
  if (spot.box.isEmpty()) from.set(axis === 0 ? 0 : to.x, axis === 1 ? 0 : to.y, 0);
  const side = (SIDES[axis] as readonly string[])[spot.level];
  const words = spot.name === 'the wheel' && axis === 2 ? 'on the wheel' : `${side} of ${spot.name}`;
  return { from: from.toArray(), to: to.toArray(), words };
}

export function boxOf(scene: Scene, ids: string[]): THREE.Box3 {
  const box = new THREE.Box3();
  for (const view of scene.parts) {
    if (!view.box || !ids.includes(view.id)) continue;
    box.expandByPoint(new THREE.Vector3(...view.box[0]));
    box.expandByPoint(new THREE.Vector3(...view.box[1]));
  }
  return box;
}
