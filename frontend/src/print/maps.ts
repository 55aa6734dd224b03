/** What a print check keeps for the view, read from its bytes. */
import { readMesh } from '../viewport/corners';
import { type Drawable, drawable } from '../viewport/meshes';

/** mesh: as it lies over the origin. leans: degrees; thick: mm; one a triangle. */
export type Maps = { mesh: Drawable; leans: Float32Array; thick: Float32Array };

export function readMaps(buffer: ArrayBuffer): Maps {
  const data = readMesh(buffer);
  const triangles = data.triangles.length / 3;
  const at = 16 + data.vertices.byteLength + data.triangles.byteLength;
  const thick = new Float32Array(buffer, at + 4 * triangles, triangles);
  return { mesh: drawable(data), leans: new Float32Array(buffer, at, triangles), thick };
}

/** lines: x, y to x, y, mm. kinds: one a line, as `PATHS` has them. */
export type Paths = { lines: Float32Array; kinds: Uint8Array };

export function readPaths(buffer: ArrayBuffer): Paths {
  const count = new DataView(buffer).getUint32(0, true);
  return {
    lines: new Float32Array(buffer, 4, 4 * count),
    kinds: new Uint8Array(buffer, 4 + 16 * count, count),
  };
}
