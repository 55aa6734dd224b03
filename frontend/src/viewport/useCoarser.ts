/** Skins are drawn with fewer triangles where the machine is slow, above all while the view moves. */
import { useFrame, useThree } from '@react-three/fiber';
import { type RefObject, useEffect } from 'react';
import * as THREE from 'three';
import { shaping } from './aside/workers';
import { levelFor } from './levels';
import type { Drawable } from './meshes';
import { shareOf, usePace } from './pace';

/** Fewer triangles are drawn as they are. */
const WORTH = 2000;
/** ms that a skin that is whole at rest is in sight before it is made ready to move: the next edit may replace it. */
const SETTLED = 500;
/** Before a frame is drawn, when it is known whether the view moves (`KeepPace`). */
const AFTER_PACE = -0.5;

type Drawn = {
  mesh: Drawable | undefined;
  /** What is drawn of it where all is: by default all of the mesh. */
  whole?: THREE.BufferGeometry;
  /** What coarser triangles run between: the corners of the mesh; by default those of `whole`. */
  corners?: THREE.BufferGeometry | null;
  /** How often it stands there. */
  copies?: number;
  /** Of the corners of coarser triangles, those that are drawn. */
  sifted?: (corners: Uint32Array) => Uint32Array;
};

/**
 * Before each frame gives the meshes within `parts` the triangles that they are drawn with: those of `whole`, or coarser
 * ones. Those that draw anything else are left as they are.
 */
export function useCoarser(
  parts: RefObject<THREE.Object3D | null>,
  { mesh, whole = mesh?.geometry, corners = whole, copies = 1, sifted }: Drawn,
) {
  const triangles = (copies * (whole ? drawnCorners(whole) : 0)) / 3;
  useEffect(() => {
    const add = (n: number) => usePace.setState(({ inSight }) => ({ inSight: inSight + n }));
    add(triangles);
    return () => add(-triangles);
  }, [triangles]);
  const invalidate = useThree((s) => s.invalidate);
  useFrame(() => {
    if (!mesh || !whole || !corners || !parts.current) return;
    const now = usePace.getState();
    const atRest = shareOf({ ...now, moving: false });
    if (now.budget < now.inSight) askFor(mesh, atRest, invalidate);
    const share = shareOf(now);
    const coarser = share < 1 ? coarserOf(mesh, whole, corners, share, sifted) : null;
    // What would hold up everything is not begun with: it is there coarser in a moment.
    const comes = atRest < 1 && isComing(mesh);
    parts.current.traverse((thing) => {
      if (!(thing instanceof THREE.Mesh) || wholeOf(thing.geometry) !== whole) return;
      thing.geometry = coarser ?? whole;
      thing.visible = !comes;
    });
  }, AFTER_PACE);
}

const drawnCorners = ({ index, attributes }: THREE.BufferGeometry): number =>
  (index ?? attributes.position)?.count ?? 0;

const isComing = ({ coarser }: Drawable): boolean =>
  coarser !== undefined && !coarser.failed && !coarser.rough && coarser.levels.length === 0;

/** Of every coarser geometry, the one that it was made of. */
const wholes = new WeakMap<THREE.BufferGeometry, THREE.BufferGeometry>();
const wholeOf = (geometry: THREE.BufferGeometry) => wholes.get(geometry) ?? geometry;
const kept = new WeakMap<THREE.BufferGeometry, Map<Uint32Array, THREE.BufferGeometry>>();

/** While `act` runs, everything is as fine as it is. */
export function whileWhole(scene: THREE.Scene, act: () => void) {
  const coarse: [THREE.Mesh, THREE.BufferGeometry][] = [];
  scene.traverse((thing) => {
    if (thing instanceof THREE.Mesh && wholes.has(thing.geometry)) coarse.push([thing, thing.geometry]);
  });
  for (const [thing, geometry] of coarse) thing.geometry = wholeOf(geometry);
  act();
  for (const [thing, geometry] of coarse) thing.geometry = geometry;
}

/** What is drawn in place of `whole`; null where that is small, or until it is there. */
function coarserOf(
  mesh: Drawable,
  whole: THREE.BufferGeometry,
  between: THREE.BufferGeometry,
  share: number,
  sifted: Drawn['sifted'] = (all) => all,
): THREE.BufferGeometry | null {
  const corners = mesh.coarser?.levels[levelFor(share) - 1] ?? mesh.coarser?.rough;
  if (!corners) return null;
  const before = kept.get(whole)?.get(corners);
  if (before) return before;
  const found = new THREE.BufferGeometry();
  for (const [name, attribute] of Object.entries(between.attributes)) found.setAttribute(name, attribute);
  found.setIndex(new THREE.BufferAttribute(sifted(corners), 1));
  found.boundingSphere = whole.boundingSphere;
  wholes.set(found, whole);
  kept.set(whole, (kept.get(whole) ?? new Map()).set(corners, found));
  whole.addEventListener('dispose', () => found.dispose());
  return found;
}

/**
 * Has coarser skins of a mesh made, once; first a rough one where even at rest only a share of it is drawn. Of one that is
 * small there are none.
 */
function askFor(mesh: Drawable, share: number, invalidate: () => void) {
  const index = mesh.geometry.index?.array as Uint32Array;
  if (mesh.coarser || index.length / 3 <= WORTH) return;
  const found: Drawable['coarser'] = { rough: null, levels: [], failed: false };
  mesh.coarser = found;
  const positions = mesh.geometry.getAttribute('position').array as Float32Array;
  const failed = () => {
    found.failed = true; // it goes on as it is
    invalidate();
  };
  if (share < 1)
    shaping.roughly(positions, index, share).then((rough) => {
      found.rough = rough;
      invalidate();
    }, failed);
  const levels = () =>
    shaping.coarser(positions, index).then((made) => {
      found.levels = made;
      if (shareOf(usePace.getState()) < 1) invalidate();
    }, failed);
  if (share < 1) levels();
  else
    setTimeout(() => {
      if (mesh.users > 0) levels();
      else mesh.coarser = undefined; // replaced meanwhile, as drafts are
    }, SETTLED);
}
