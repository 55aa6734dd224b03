/** Meshes by key: fetched once, read from their binary form, and made ready for drawing. */
import * as THREE from 'three';
import { Away } from '../api/client';
import { Shelf } from './shelf';

export type MeshData = {
  vertices: Float32Array;
  triangles: Uint32Array;
  /** For every triangle the index of its part; only in joined results. */
  partOf: Uint32Array | null;
};

/**
 * A mesh ready for drawing: a corner stands for the triangles at a vertex that are of one part and have one normal there.
 * partOf: the part of every corner. users: how many draw it just now.
 */
export type Drawable = {
  geometry: THREE.BufferGeometry;
  data: MeshData;
  partOf: Uint32Array;
  users: number;
};

const CREASE = Math.cos((32 * Math.PI) / 180);

const shelf = new Shelf<Drawable>({
  budget: 400_000_000,
  bytes: bytesOf,
  inUse: (mesh) => mesh.users > 0,
  drop: (mesh) => mesh.geometry.dispose(),
});

/** The drawable of a key. A mesh that the server has lost is forgotten here too, so that asking again helps. */
export const loadMesh = (key: string): Promise<Drawable> =>
  shelf.get(key, () => fetchMesh(key).then(drawable));

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

async function fetchMesh(key: string): Promise<MeshData> {
  const response = await fetch(`/api/meshes/${key}`);
  if (!response.ok) throw new Away('A mesh of this piece is not at hand.');
  return readMesh(await response.arrayBuffer());
}

/** "NCM1", number of vertices, of triangles, 1 where parts follow; then the arrays. */
export function readMesh(buffer: ArrayBuffer): MeshData {
  const head = new DataView(buffer);
  if (head.getUint32(0, false) !== 0x4e434d31) throw new Error('not a mesh of ours');
  const [vertices, triangles, parts] = [4, 8, 12].map((at) => head.getUint32(at, true)) as [
    number,
    number,
    number,
  ];
  let at = 16;
  const take = <T>(make: (start: number) => T, bytes: number): T => {
    const found = make(at);
    at += bytes;
    return found;
  };
  return {
    vertices: take((s) => new Float32Array(buffer, s, vertices * 3), vertices * 12),
    triangles: take((s) => new Uint32Array(buffer, s, triangles * 3), triangles * 12),
    partOf: parts ? take((s) => new Uint32Array(buffer, s, triangles), triangles * 4) : null,
  };
}

export function drawable(data: MeshData): Drawable {
  const { positions, normals, partOf, index } = corners(data);
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  geometry.setAttribute('normal', new THREE.BufferAttribute(normals, 3));
  geometry.setIndex(new THREE.BufferAttribute(index, 1));
  geometry.computeBoundingSphere();
  return { geometry, data, partOf, users: 0 };
}

/**
 * Corners with smooth normals, except across edges sharper than the crease angle; those that are alike are one. Plain
 * loops: drafts wait for it.
 */
function corners({ vertices, triangles, partOf }: MeshData): {
  positions: Float32Array;
  normals: Float32Array;
  partOf: Uint32Array;
  index: Uint32Array;
} {
  const corners = triangles.length;
  const positions = new Float32Array(corners * 3);
  for (let c = 0; c < corners; c++) {
    const v = (triangles[c] as number) * 3;
    positions[c * 3] = vertices[v] as number;
    positions[c * 3 + 1] = vertices[v + 1] as number;
    positions[c * 3 + 2] = vertices[v + 2] as number;
  }
  const { along, areas } = faceNormals(positions);
  const { starts, users } = cornersByVertex(triangles, vertices.length / 3);
  const found = { positions: new Float32Array(corners * 3), normals: new Float32Array(corners * 3) };
  const parts = new Uint32Array(corners);
  const index = new Uint32Array(corners);
  let count = 0;
  for (let v = 0; v + 1 < starts.length; v++) {
    const start = starts[v] as number;
    const end = starts[v + 1] as number;
    const first = count;
    for (let k = start; k < end; k++) {
      const c = users[k] as number;
      const own = c - (c % 3);
      const ux = along[own] as number;
      const uy = along[own + 1] as number;
      const uz = along[own + 2] as number;
      let x = 0;
      let y = 0;
      let z = 0;
      for (let i = start; i < end; i++) {
        const user = users[i] as number;
        const f = user - (user % 3);
        const nx = along[f] as number;
        const ny = along[f + 1] as number;
        const nz = along[f + 2] as number;
        if (nx * ux + ny * uy + nz * uz < CREASE) continue;
        const area = areas[f / 3] as number;
        x += nx * area;
        y += ny * area;
        z += nz * area;
      }
      const length = Math.sqrt(x * x + y * y + z * z) || 1;
      x = Math.fround(x / length);
      y = Math.fround(y / length);
      z = Math.fround(z / length);
      const part = partOf ? (partOf[own / 3] as number) : 0;
      let at = first;
      for (; at < count; at++) {
        const n = at * 3;
        if (parts[at] !== part || found.normals[n] !== x) continue;
        if (found.normals[n + 1] === y && found.normals[n + 2] === z) break;
      }
      index[c] = at;
      if (at < count) continue;
      parts[at] = part;
      found.normals[at * 3] = x;
      found.normals[at * 3 + 1] = y;
      found.normals[at * 3 + 2] = z;
      for (let i = 0; i < 3; i++) found.positions[at * 3 + i] = vertices[v * 3 + i] as number;
      count++;
    }
  }
  return {
    positions: found.positions.slice(0, 3 * count),
    normals: found.normals.slice(0, 3 * count),
    partOf: parts.slice(0, count),
    index,
  };
}

/** For every triangle its unit normal, and twice its area. */
function faceNormals(p: Float32Array): { along: Float32Array; areas: Float32Array } {
  const along = new Float32Array(p.length / 3);
  const areas = new Float32Array(p.length / 9);
  for (let f = 0; f < areas.length; f++) {
    const at = f * 9;
    const ax = (p[at + 3] as number) - (p[at] as number);
    const ay = (p[at + 4] as number) - (p[at + 1] as number);
    const az = (p[at + 5] as number) - (p[at + 2] as number);
    const bx = (p[at + 6] as number) - (p[at] as number);
    const by = (p[at + 7] as number) - (p[at + 1] as number);
    const bz = (p[at + 8] as number) - (p[at + 2] as number);
    const x = ay * bz - az * by;
    const y = az * bx - ax * bz;
    const z = ax * by - ay * bx;
    const length = Math.sqrt(x * x + y * y + z * z);
    const safe = length || 1;
    along[f * 3] = x / safe;
    along[f * 3 + 1] = y / safe;
    along[f * 3 + 2] = z / safe;
    areas[f] = length;
  }
  return { along, areas };
}

function cornersByVertex(triangles: Uint32Array, count: number): { starts: Uint32Array; users: Uint32Array } {
  const starts = new Uint32Array(count + 1);
  for (const v of triangles) starts[v + 1] = (starts[v + 1] as number) + 1;
  for (let v = 0; v < count; v++) starts[v + 1] = (starts[v + 1] as number) + (starts[v] as number);
  const next = starts.slice();
  const users = new Uint32Array(triangles.length);
  triangles.forEach((v, corner) => {
    users[next[v] as number] = corner;
    next[v] = (next[v] as number) + 1;
  });
  return { starts, users };
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
