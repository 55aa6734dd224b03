/** Meshes by key: fetched once, read from their binary form, and made ready for drawing. */
import * as THREE from 'three';
import { Away } from '../api/client';
import { reading } from './aside/workers';
import { type Corners, cornersOf, type MeshData, readMesh } from './corners';
import { Shelf } from './shelf';

/**
 * A mesh ready for drawing, by its corners. users: how many draw it just now. coarser: once that was asked for, fewer
 * triangles between the same corners; `rough` is there first.
 */
export type Drawable = Pick<Corners, 'partOf' | 'vertexOf'> & {
  geometry: THREE.BufferGeometry;
  data: MeshData;
  users: number;
  coarser?: { rough: Uint32Array | null; levels: Uint32Array[]; failed: boolean };
};

/** More triangles than these are made ready aside. */
const AT_ONCE = 20_000;

const shelf = new Shelf<Drawable>({
  budget: 400_000_000,
  bytes: bytesOf,
  inUse: (mesh) => mesh.users > 0,
  drop: (mesh) => mesh.geometry.dispose(),
});

/** The drawable of a key. A mesh that the server has lost is forgotten here too, so that asking again helps. */
export const loadMesh = (key: string): Promise<Drawable> =>
  shelf.get(key, () => fetchMesh(key).then(drawableOf));

/** What a drawable holds, for the page and for the graphics card. */
function bytesOf({ geometry, data }: Drawable): number {
  const corners = (geometry.getAttribute('position') as THREE.BufferAttribute).array.byteLength;
  return (
    5 * corners +
    2 * data.triangles.byteLength +
    data.vertices.byteLength +
    data.triangles.byteLength +
    (data.partOf?.byteLength ?? 0)
  );
}

/** key: of a mesh, or an address of its own, as one that is shown by a link has. */
async function fetchMesh(key: string): Promise<ArrayBuffer> {
  const response = await fetch(key.startsWith('/') ? key : `/api/meshes/${key}`);
  if (!response.ok) throw new Away('A mesh of this piece is not at hand.');
  return response.arrayBuffer();
}

/** Made ready on the page: of what is small. */
export const drawable = (data: MeshData): Drawable => fromCorners(data, cornersOf(data));

/** Read and made ready aside; what is small, at once. */
export async function drawableOf(buffer: ArrayBuffer): Promise<Drawable> {
  const data = readMesh(buffer);
  return data.triangles.length / 3 > AT_ONCE
    ? fromCorners(data, await reading.corners(data))
    : drawable(data);
}

function fromCorners(data: MeshData, { positions, normals, partOf, vertexOf, index }: Corners): Drawable {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  geometry.setAttribute('normal', new THREE.BufferAttribute(normals, 3));
  geometry.setIndex(new THREE.BufferAttribute(index, 1));
  geometry.computeBoundingSphere();
  return { geometry, data, partOf, vertexOf, users: 0 };
}

/** A row of 3 x 4 as a matrix of three.js. */
export function matrixOf(rows: number[]): THREE.Matrix4 {
  const [a, b, c, d, e, f, g, h, i, j, k, l] = rows as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  return new THREE.Matrix4().set(a, b, c, d, e, f, g, h, i, j, k, l, 0, 0, 0, 1);
}
