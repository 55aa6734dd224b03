/** A mesh read from its binary form, and its corners for drawing. No more than arrays: done aside, or on the page. */

export type MeshData = {
  vertices: Float32Array;
  triangles: Uint32Array;
  /** For every triangle the index of its part; only in joined results. */
  partOf: Uint32Array | null;
};

const CREASE = Math.cos((32 * Math.PI) / 180);

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

/**
 * Corners to draw: each stands for the triangles at a vertex that are of one part and have one normal there. partOf,
 * vertexOf: the part and the vertex of every corner.
 */
export type Corners = {
  positions: Float32Array;
  normals: Float32Array;
  partOf: Uint32Array;
  vertexOf: Uint32Array;
  index: Uint32Array;
};

export const cornersOf = (data: MeshData): Corners => split(creased(data), data);

type Creased = { count: number; vertexOf: Uint32Array; normals: Float32Array; index: Uint32Array };

/**
 * A corner for every normal at a vertex: smooth, except across edges sharper than the crease angle. Plain loops: drafts
 * wait for it.
 */
function creased({ vertices, triangles }: MeshData): Creased {
  const { along, areas } = faceNormals(vertices, triangles);
  const { starts, users } = cornersByVertex(triangles, vertices.length / 3);
  const normals = new Float32Array(triangles.length * 3);
  const vertexOf = new Uint32Array(triangles.length);
  const index = new Uint32Array(triangles.length);
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
      let at = first;
      for (; at < count; at++) {
        const n = at * 3;
        if (normals[n] === x && normals[n + 1] === y && normals[n + 2] === z) break;
      }
      index[c] = at;
      if (at < count) continue;
      vertexOf[at] = v;
      normals[at * 3] = x;
      normals[at * 3 + 1] = y;
      normals[at * 3 + 2] = z;
      count++;
    }
  }
  return { count, vertexOf, normals: normals.slice(0, 3 * count), index };
}

/** The corners where several parts meet, one for each of them. */
function split({ count, vertexOf, normals, index }: Creased, { vertices, partOf }: MeshData): Corners {
  const from = new Uint32Array(index.length);
  const parts = new Uint32Array(index.length);
  const known = new Int32Array(count).fill(-1);
  const others = new Map<string, number>();
  let number = 0;
  for (let c = 0; c < index.length; c++) {
    const at = index[c] as number;
    const part = partOf ? (partOf[(c - (c % 3)) / 3] as number) : 0;
    const first = known[at] as number;
    let mine = first >= 0 && parts[first] !== part ? others.get(`${at} ${part}`) : first;
    if (mine === undefined || mine < 0) {
      mine = number++;
      from[mine] = at;
      parts[mine] = part;
      if (first < 0) known[at] = mine;
      else others.set(`${at} ${part}`, mine);
    }
    index[c] = mine;
  }
  const found = {
    positions: new Float32Array(3 * number),
    normals: new Float32Array(3 * number),
    vertexOf: new Uint32Array(number),
  };
  for (let i = 0; i < number; i++) {
    const at = from[i] as number;
    const v = vertexOf[at] as number;
    found.vertexOf[i] = v;
    for (let axis = 0; axis < 3; axis++) {
      found.positions[3 * i + axis] = vertices[3 * v + axis] as number;
      found.normals[3 * i + axis] = normals[3 * at + axis] as number;
    }
  }
  return { ...found, partOf: parts.slice(0, number), index };
}

/** For every triangle its unit normal, and twice its area. */
function faceNormals(
  vertices: Float32Array,
  triangles: Uint32Array,
): { along: Float32Array; areas: Float32Array } {
  const along = new Float32Array(triangles.length);
  const areas = new Float32Array(triangles.length / 3);
  const at = (c: number, axis: number) => vertices[3 * (triangles[c] as number) + axis] as number;
  for (let c = 0; c < triangles.length; c += 3) {
    const ax = at(c + 1, 0) - at(c, 0);
    const ay = at(c + 1, 1) - at(c, 1);
    const az = at(c + 1, 2) - at(c, 2);
    const bx = at(c + 2, 0) - at(c, 0);
    const by = at(c + 2, 1) - at(c, 1);
    const bz = at(c + 2, 2) - at(c, 2);
    const x = ay * bz - az * by;
    const y = az * bx - ax * bz;
    const z = ax * by - ay * bx;
    const length = Math.sqrt(x * x + y * y + z * z);
    const safe = length || 1;
    along[c] = x / safe;
    along[c + 1] = y / safe;
    along[c + 2] = z / safe;
    areas[c / 3] = length;
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
