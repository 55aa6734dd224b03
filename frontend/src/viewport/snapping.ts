/** What dragged parts are caught by: the grid, and the sides and middles of other parts. */
import * as THREE from 'three';
import type { PartView, Scene } from '../api/client';
import type { Snap, Vector } from '../controls/editor';
import type { Known } from '../controls/tree';
import { matrixOf } from './meshes';

const SIDES = [
  ['left side', 'middle', 'right side'],
  ['front', 'middle', 'back'],
  ['foot', 'middle', 'top'],
] as const;

/** level: which of the dragged box's own sides it may catch: low or high ones, or its middle. */
type Spot = { value: number; level: 0 | 1 | 2; words: string; box: THREE.Box3 };

export class Snapper {
  private readonly spots: Spot[][];
  readonly box: THREE.Box3;

  /** moving: the parts dragged and all in them. */
  constructor(scene: Scene, known: Map<string, Known>, moving: Set<string>, ids: string[]) {
    this.box = boxOf(scene, ids);
    const others = scene.parts.flatMap((view) => {
      const part = known.get(view.id);
      const stands = view.box && part && !part.hidden && !moving.has(view.id) && part.role === 'union';
      return stands ? [{ view, part }] : [];
    });
    this.spots = [0, 1, 2].map((axis) => [
      {
        value: 0,
        level: axis === 2 ? (0 as const) : (1 as const),
        words: axis === 2 ? 'the wheel' : 'the middle of the wheel',
        box: new THREE.Box3(),
      },
      ...others.flatMap(({ view, part }) => spotsOf(view, part, axis)),
    ]);
  }

  /** `by` with every free axis caught by what lies within `reach` mm, and what caught it. */
  caught(by: Vector, free: [boolean, boolean, boolean], reach: number): { by: Vector; snaps: Snap[] } {
    const found: Vector = [...by];
    const snaps: Snap[] = [];
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
    for (const { axis, spot } of held) snaps.push(mark(now, axis, spot));
    return { by: found, snaps };
  }
}

/** Along one axis of the wheel: a part's sides and middle; the ends of its own axis, the corners of a box. */
function spotsOf(view: PartView, known: Known, axis: number): Spot[] {
  const { box, own, matrices } = view;
  const { name, primitive } = known.part;
  if (!box) return [];
  const around = new THREE.Box3(new THREE.Vector3(...box[0]), new THREE.Vector3(...box[1]));
  const [low, high] = [box[0][axis] as number, box[1][axis] as number];
  const found: Spot[] = [low, (low + high) / 2, high].map((value, level) => ({
    value,
    level: level as 0 | 1 | 2,
    words: `${(SIDES[axis] as readonly string[])[level]} of ${name}`,
    box: around,
  }));
  const rows = matrices[0];
  if (!own || !rows || known.part.place.rotation.every((r) => r % 90 === 0)) return found;
  const matrix = matrixOf(rows);
  const at = (share: number[]) =>
    new THREE.Vector3(
      ...(share.map((s, i) => (own[0][i] as number) * (1 - s) + (own[1][i] as number) * s) as Vector),
    )
      .applyMatrix4(matrix)
      .getComponent(axis);
  const ends = [0, 1].map((z) => ({ value: at([0.5, 0.5, z]), words: `end of ${name}` }));
  const corners =
    primitive?.kind === 'box'
      ? [0, 1, 2, 3, 4, 5, 6, 7].map((n) => ({
          value: at([n & 1, (n >> 1) & 1, n >> 2]),
          words: `corner of ${name}`,
        }))
      : [];
  return [...found, ...[...ends, ...corners].map((s) => ({ ...s, level: 1 as const, box: around }))];
}

/** A line in the plane that caught, from the other part's middle to the dragged one's. */
function mark(now: THREE.Box3, axis: number, spot: Spot): Snap {
  const to = now.getCenter(new THREE.Vector3()).setComponent(axis, spot.value);
  const from = (spot.box.isEmpty() ? to.clone() : spot.box.getCenter(new THREE.Vector3())).setComponent(
    axis,
    spot.value,
  );
  if (spot.box.isEmpty()) from.set(axis === 0 ? 0 : to.x, axis === 1 ? 0 : to.y, 0);
  return { from: from.toArray(), to: to.toArray(), words: spot.words };
}

export function boxOf(scene: Scene, ids: string[]): THREE.Box3 {
  const box = new THREE.Box3();
  const held = new Set(ids);
  for (const view of scene.parts) {
    if (!view.box || !held.has(view.id)) continue;
    box.expandByPoint(new THREE.Vector3(...view.box[0]));
    box.expandByPoint(new THREE.Vector3(...view.box[1]));
  }
  return box;
}
