/** A mesh as it is, and a mended one by how far it moved. */
import { useThree } from '@react-three/fiber';
import { useQueries } from '@tanstack/react-query';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { Compared, PartView } from '../api/client';
import { INK } from '../theme/ink';
import { matrixOf } from '../viewport/meshes';
import { colouredBy } from '../viewport/scalarMap';
import { useMesh } from '../viewport/useMesh';
import { movedScale } from './LookNotes';

/** planes: that cut it. */
type MeshPartProps = { meshKey: string; view: PartView; colour: string; planes?: THREE.Plane[] };

/** A mesh by its key, where its part stands. */
export function MeshPart({ meshKey, view, colour, planes }: MeshPartProps) {
  const shown = useMesh(meshKey);
  if (!shown) return null;
  return view.matrices.map((rows, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: a copy has no other name
    <group key={i} matrix={matrixOf(rows)} matrixAutoUpdate={false}>
      <mesh geometry={shown.mesh.geometry}>
        <meshStandardMaterial
          color={colour}
          roughness={0.75}
          side={THREE.FrontSide}
          clippingPlanes={planes}
        />
      </mesh>
      {/* What is seen from behind is seen as the inside. */}
      <mesh geometry={shown.mesh.geometry}>
        <meshStandardMaterial
          color={INK.section}
          roughness={0.9}
          side={THREE.BackSide}
          clippingPlanes={planes}
        />
      </mesh>
    </group>
  ));
}

/** How far every triangle of each mended skin is from what was there before, mm; those that are there yet. */
export function useMoved(pairs: Compared[]): (Float32Array | undefined)[] {
  return useQueries({
    queries: pairs.map((pair) => ({
      queryKey: ['moved', pair.moved],
      queryFn: async () => new Float32Array(await (await fetch(pair.moved)).arrayBuffer()),
      staleTime: Number.POSITIVE_INFINITY,
    })),
  }).map((query) => query.data);
}

/** What moved less, did not move: a file's numbers are no finer. */
const LEAST_MM = 0.001;

export const farthest = (moved: (Float32Array | undefined)[]) =>
  moved.reduce((most, part) => part?.reduce((m, d) => Math.max(m, d), most) ?? most, LEAST_MM);

type MovedProps = { pair: Compared; view: PartView; moved: Float32Array | undefined; most: number };

/** The mended mesh coloured by how far its surface moved, from clay (not at all) to the colour of flaws (`most` mm). */
export function MovedMesh({ pair, view, moved, most }: MovedProps) {
  const shown = useMesh(pair.after);
  const invalidate = useThree((s) => s.invalidate);
  const geometry = useMemo(() => {
    if (!shown || !moved) return null;
    return colouredBy(shown.mesh, moved, movedScale(most));
  }, [shown, moved, most]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn when there is something new to draw
  useEffect(invalidate, [geometry]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  if (!geometry || !view.matrices[0]) return null;
  return (
    <mesh geometry={geometry} matrix={matrixOf(view.matrices[0])} matrixAutoUpdate={false}>
      <meshStandardMaterial vertexColors roughness={0.75} />
    </mesh>
  );
}
