/** What is worked out of a geometry's corners, aside where it is large: a tree of boxes, and its sharp edges. */
import * as THREE from 'three';
import { MeshBVH, type MeshBVHOptions, type SerializedBVH } from 'three-mesh-bvh';

/** The triangles stay in their order, by which each knows its part (an option that the types leave out). */
const IN_ORDER = { indirect: true } as MeshBVHOptions;

function geometryOf(positions: Float32Array, index: Uint32Array): THREE.BufferGeometry {
  const found = new THREE.BufferGeometry();
  found.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  found.setIndex(new THREE.BufferAttribute(index, 1));
  return found;
}

export const growTree = (geometry: THREE.BufferGeometry): MeshBVH => new MeshBVH(geometry, IN_ORDER);

/** A tree as it comes from a worker. */
export type Tree = Pick<SerializedBVH, 'roots'> & { indirectBuffer: Uint32Array };

export function treeOf(positions: Float32Array, index: Uint32Array): Tree {
  const kept = MeshBVH.serialize(growTree(geometryOf(positions, index)), { cloneBuffers: false });
  return { roots: kept.roots, indirectBuffer: (kept as unknown as Tree).indirectBuffer };
}

export const putTree = (geometry: THREE.BufferGeometry, tree: Tree): MeshBVH =>
  MeshBVH.deserialize(tree as unknown as SerializedBVH, geometry, { setIndex: false });

/** Degrees that faces meet at, from which on there is an edge to see. */
const EDGE = 32;

/** Points by twos: the ends of every sharp edge. */
export function sharpEdges(positions: Float32Array, index: Uint32Array): Float32Array {
  const edges = new THREE.EdgesGeometry(geometryOf(positions, index), EDGE);
  return edges.getAttribute('position').array as Float32Array;
}
