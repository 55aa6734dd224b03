/** What every drag in the view shares: what it needs to know, whom it tells, and how a movement is stepped and caught. */
import * as THREE from 'three';
import type { Scene } from '../api/client';
import type { Preferences } from '../api/preferences';
import { type Drag, useEditor, type Vector } from '../controls/editor';
import { short } from '../controls/format';
import { HELD } from '../controls/held';
import type { Known } from '../controls/tree';
import { moved, toStep } from './carry';
import { mmPerPixel } from './pointer';
import type { Snapper } from './snapping';
import type { ViewHandle } from './View';

const REACH_PX = 8;

/** What a drag needs to know, and whom it tells. */
export type DragContext = {
  scene: Scene;
  known: Map<string, Known>;
  view: ViewHandle;
  preferences: Preferences;
  show: (drag: Drag) => void;
  letGo: () => void;
  cancel: () => void;
};

/** How near, mm, something at a point must come to be caught. */
export const snapReach = (camera: THREE.Camera, canvas: HTMLCanvasElement, at: THREE.Vector3): number =>
  REACH_PX * mmPerPixel(camera, canvas, at);

/** A movement by a hand: in steps of the grid, or caught by other parts. */
export function moveDrag(
  ids: string[],
  raw: Vector,
  free: [boolean, boolean, boolean],
  snapper: Snapper,
  reach: number,
  { preferences }: DragContext,
): Drag {
  const { floor } = useEditor.getState();
  // Over a slanted face steps along x, y and z would leave the face.
  const slanted = floor?.normal.every((n) => Math.abs(n) < 1 - 1e-6) ?? false;
  const freeHand = HELD.free() || slanted;
  const step = preferences.grid_mm / (HELD.fine() ? 10 : 1);
  const loose = freeHand || !preferences.snapping;
  const stepped = raw.map((v, i) =>
    free[i] ? (freeHand ? Number(v.toFixed(3)) + 0 : toStep(v, step)) : 0,
  ) as Vector;
  const plain = raw.map((v, i) => (free[i] ? v : 0)) as Vector;
  const { by, snaps } = loose
    ? { by: stepped, snaps: [] }
    : snapper.caught(plain, free, Math.min(reach, step * 4));
  const final = by.map((v, i) => (v === plain[i] ? stepped[i] : v)) as Vector;
  const now = snapper.box.isEmpty()
    ? null
    : snapper.box.getCenter(new THREE.Vector3()).add(new THREE.Vector3(...final));
  const said = [
    `moved ${final.map((v) => short(v, 2)).join(', ')} mm`,
    now &&
      `middle at ${short(now.x, 2)}, ${short(now.y, 2)}, base at ${short(snapper.box.min.z + final[2], 2)}`,
  ];
  return { ...moved(ids, final), said: said.filter(Boolean).join(' · '), snaps };
}
