/** The parts of a cut piece, drawn apart along the ways they were cut; and the planes themselves, before. */
import { useThree } from '@react-three/fiber';
import { useQueries } from '@tanstack/react-query';
import { useEffect, useMemo, useRef } from 'react';
import * as THREE from 'three';
import type { CutLines, CutParts, Lying } from '../api/printing';
import { INK } from '../theme/ink';
import { type Drawable, drawableOf } from '../viewport/meshes';
import { passed } from '../viewport/passed';
import { useCoarser } from '../viewport/useCoarser';
import { useUsed } from '../viewport/useMesh';
import { useShadows } from '../viewport/useShadows';
import { placingOf } from './bedPlaces';

const GLAZES = ['#c9a384', '#a9b59a', '#c7b48a', '#9fb0b3', '#bb958a', '#b3a6bf'];

type PartsProps = { job: string; parts: CutParts; lies: Lying };

export function PartsApart({ job, parts, lies }: PartsProps) {
  const invalidate = useThree((s) => s.invalidate);
  const meshes = useQueries({
    queries: parts.parts.map((_, i) => ({
      queryKey: ['cut-part', job, i],
      queryFn: async () => drawableOf(await (await fetch(`/api/jobs/${job}/cut/${i + 1}`)).arrayBuffer()),
      staleTime: Number.POSITIVE_INFINITY,
      gcTime: 60_000,
    })),
  }).map((query) => query.data);
  const there = meshes.filter(Boolean).length;
  useShadows(there);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn as they come
  useEffect(invalidate, [there]);
  const placing = useMemo(() => placingOf(lies), [lies]);
  const ways = useMemo(() => apart(parts), [parts]);
  return (
    <group matrix={placing} matrixAutoUpdate={false}>
      {meshes.map(
        (mesh, i) =>
          mesh && (
            <Part
              // biome-ignore lint/suspicious/noArrayIndexKey: a part has no other name
              key={i}
              mesh={mesh}
              at={ways[i] as THREE.Vector3}
              glaze={GLAZES[i % GLAZES.length] as string}
            />
          ),
      )}
    </group>
  );
}

function Part({ mesh, at, glaze }: { mesh: Drawable; at: THREE.Vector3; glaze: string }) {
  const drawn = useRef<THREE.Group>(null);
  useCoarser(drawn, { mesh });
  useUsed(mesh);
  return (
    <group ref={drawn} position={at}>
      <mesh geometry={mesh.geometry} castShadow receiveShadow>
        <meshStandardMaterial color={glaze} roughness={0.75} />
      </mesh>
    </group>
  );
}

/** How far each part is drawn from the middle of all: a third of how far its own middle is. */
function apart({ parts }: CutParts): THREE.Vector3[] {
  const boxes = parts.map(
    ({ bounds }) => new THREE.Box3(new THREE.Vector3(...bounds[0]), new THREE.Vector3(...bounds[1])),
  );
  const whole = boxes.reduce((all, box) => all.union(box), new THREE.Box3());
  const middle = whole.getCenter(new THREE.Vector3());
  const ways = boxes.map((box) => box.getCenter(new THREE.Vector3()).sub(middle).multiplyScalar(0.35));
  // None sinks into the bed.
  const low = Math.min(...boxes.map((box, i) => box.min.z + (ways[i] as THREE.Vector3).z));
  for (const way of ways) way.z += whole.min.z - low;
  return ways;
}

type PlanesProps = { lines: CutLines; bounds: [number[], number[]]; lies: Lying };

/** Each plane as a sheet across the piece. */
export function CutPlanes({ lines, bounds, lies }: PlanesProps) {
  const placing = useMemo(() => placingOf(lies), [lies]);
  const invalidate = useThree((s) => s.invalidate);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn where they lie
  useEffect(invalidate, [lines]);
  const [low, high] = bounds as [[number, number, number], [number, number, number]];
  return (
    <group matrix={placing} matrixAutoUpdate={false}>
      {lines.planes.map(({ axis, at }, i) => {
        const k = 'xyz'.indexOf(axis);
        const size = [0, 1, 2].map((j) =>
          j === k ? 0.02 : 1.15 * ((high[j] as number) - (low[j] as number)),
        );
        const middle = [0, 1, 2].map((j) =>
          j === k ? at : ((high[j] as number) + (low[j] as number)) / 2,
        ) as [number, number, number];
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a plane has no other name
          <mesh key={i} position={middle} renderOrder={4} raycast={passed}>
            <boxGeometry args={size as [number, number, number]} />
            <meshBasicMaterial color={INK.cut} transparent opacity={0.28} depthWrite={false} />
          </mesh>
        );
      })}
    </group>
  );
}
