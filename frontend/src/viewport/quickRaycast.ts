/** Finding what a ray meets by a tree of boxes, made when it is first needed; kept with the mesh that was fetched. */
import * as THREE from 'three';
import { acceleratedRaycast, MeshBVH, type MeshBVHOptions } from 'three-mesh-bvh';

/** Fewer triangles are looked through one by one sooner than a tree is made. */
const WORTH = 3000;

/** The triangles stay in their order, by which each knows its part (an option that the types leave out). */
const IN_ORDER = { indirect: true } as MeshBVHOptions;

function quickRaycast(this: THREE.Mesh, ray: THREE.Raycaster, hits: THREE.Intersection[]) {
  const { geometry } = this;
  const corners = geometry.index ?? geometry.getAttribute('position');
  if (!geometry.boundsTree && corners && corners.count / 3 > WORTH) {
    const base = (geometry.userData as { base?: THREE.BufferGeometry }).base ?? geometry;
    base.boundsTree ??= new MeshBVH(base, IN_ORDER);
    geometry.boundsTree = base.boundsTree;
  }
  acceleratedRaycast.call(this, ray, hits);
}

// For every mesh, and by that for every instance of one.
THREE.Mesh.prototype.raycast = quickRaycast;
