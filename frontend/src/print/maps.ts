/** What a print check keeps for the view, read from its bytes. */
import { useEffect, useState } from 'react';
import { usePrintBytes } from '../api/printing';
import { type Drawable, drawableOf } from '../viewport/meshes';
import { useUsed } from '../viewport/useMesh';

/** mesh: as it lies over the origin. leans: degrees; thick: mm; one a triangle. */
export type Maps = { mesh: Drawable; leans: Float32Array; thick: Float32Array };

async function readMaps(buffer: ArrayBuffer): Promise<Maps> {
  const mesh = await drawableOf(buffer);
  const triangles = mesh.data.triangles.length / 3;
  const at = 16 + mesh.data.vertices.byteLength + mesh.data.triangles.byteLength;
  const thick = new Float32Array(buffer, at + 4 * triangles, triangles);
  return { mesh, leans: new Float32Array(buffer, at, triangles), thick };
}

/** The maps of a print check, once they are there: for whoever draws them, until it is gone. */
export function useMaps(job: string): Maps | null {
  const bytes = usePrintBytes(job, 'maps');
  const [maps, setMaps] = useState<Maps | null>(null);
  useEffect(() => {
    if (!bytes) return;
    let current = true;
    let read: Maps | null = null;
    readMaps(bytes).then((found) => {
      if (!current) return found.mesh.geometry.dispose();
      read = found;
      setMaps(found);
    });
    return () => {
      current = false;
      read?.mesh.geometry.dispose();
      setMaps(null);
    };
  }, [bytes]);
  useUsed(maps?.mesh);
  return maps;
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
