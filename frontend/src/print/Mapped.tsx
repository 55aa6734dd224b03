/** What lies on the bed, every bit of its skin in the colour of a number: how far it leans out, or how thick it is. */
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import type * as THREE from 'three';
import type { Lying } from '../api/printing';
import { colouredBy, colouredCorners, type Scale } from '../viewport/scalarMap';
import { useCoarser } from '../viewport/useCoarser';
import { useShadows } from '../viewport/useShadows';
import { spotsOf } from './bedPlaces';
import { useMaps } from './maps';

type Props = { job: string; lies: Lying; which: 'leans' | 'thick'; scale: Scale };

export function Mapped({ job, lies, which, scale }: Props) {
  const maps = useMaps(job);
  const invalidate = useThree((s) => s.invalidate);
  const { from, to, least, most, curve } = scale;
  const geometry = useMemo(
    () => maps && colouredBy(maps.mesh, maps[which], { from, to, least, most, curve }),
    [maps, which, from, to, least, most, curve],
  );
  const corners = useMemo(() => maps && geometry && colouredCorners(maps.mesh, geometry), [maps, geometry]);
  const spots = useMemo(() => spotsOf(lies), [lies]);
  const drawn = useRef<THREE.Group>(null);
  useCoarser(drawn, { mesh: maps?.mesh, whole: geometry ?? undefined, corners, copies: spots.length });
  useShadows(geometry, lies);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn when there is something new to draw
  useEffect(invalidate, [geometry]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  if (!geometry) return null;
  return (
    <group ref={drawn}>
      {spots.map((matrix, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a copy has no other name
        <mesh key={i} geometry={geometry} matrix={matrix} matrixAutoUpdate={false} castShadow receiveShadow>
          <meshStandardMaterial vertexColors roughness={0.75} />
        </mesh>
      ))}
    </group>
  );
}
