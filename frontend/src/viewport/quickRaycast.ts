/**
 * Finding what a ray meets by a tree of boxes, made when it is first needed and kept with the mesh that was fetched. Of a
 * large one it grows aside; until then every triangle is looked at.
 */
import * as THREE from 'three';
import { acceleratedRaycast } from 'three-mesh-bvh';
import { shaping } from './aside/workers';
import { growTree, putTree } from './shapes';

/** Fewer triangles are looked through one by one sooner than a tree is made. */
const WORTH = 3000;
/** More of them grow aside. */
const AT_ONCE = 20_000;

const growing = new WeakSet<THREE.BufferGeometry>();

function growAside(geometry: THREE.BufferGeometry, index: THREE.BufferAttribute) {
  if (growing.has(geometry)) return;
  growing.add(geometry);
  const positions = geometry.getAttribute('position').array as Float32Array;
  shaping.treeOf(positions, index.array as Uint32Array).then(
    (tree) => {
      geometry.boundsTree = putTree(geometry, tree);
    },
    () => undefined, // every triangle goes on being looked at
  );
}

function quickRaycast(this: THREE.Mesh, ray: THREE.Raycaster, hits: THREE.Intersection[]) {
  const { geometry } = this;
  const corners = geometry.index ?? geometry.getAttribute('position');
  if (!geometry.boundsTree && corners && corners.count / 3 > WORTH) {
    const base = (geometry.userData as { base?: THREE.BufferGeometry }).base ?? geometry;
    if (base.boundsTree) geometry.boundsTree = base.boundsTree;
    else if (base.index && base.index.count / 3 > AT_ONCE) growAside(base, base.index);
    else geometry.boundsTree = base.boundsTree = growTree(base);
  }
  acceleratedRaycast.call(this, ray, hits);
}

// For every mesh, and by that for every instance of one.
THREE.Mesh.prototype.raycast = quickRaycast;
