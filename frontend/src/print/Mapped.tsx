/** What lies on the bed, every bit of its skin in the colour of a number: how far it leans out, or how thick it is. */
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import { type Lying, usePrintBytes } from '../api/printing';
import { colouredBy, type Scale } from '../viewport/scalarMap';
import { useShadows } from '../viewport/useShadows';
import { spotsOf } from './bedPlaces';
import { readMaps } from './maps';

type Props = { job: string; lies: Lying; which: 'leans' | 'thick'; scale: Scale };

export function Mapped({ job, lies, which, scale }: Props) {
  const bytes = usePrintBytes(job, 'maps');
  const maps = useMemo(() => bytes && readMaps(bytes), [bytes]);
  const invalidate = useThree((s) => s.invalidate);
  const { from, to, least, most, curve } = scale;
  const geometry = useMemo(
    () => maps && colouredBy(maps.mesh, maps[which], { from, to, least, most, curve }),
    [maps, which, from, to, least, most, curve],
  );
  useShadows(geometry, lies);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn when there is something new to draw
  useEffect(invalidate, [geometry]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  useEffect(() => () => maps?.mesh.geometry.dispose(), [maps]);
  if (!geometry) return null;
  return spotsOf(lies).map((matrix, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: a copy has no other name
    <mesh key={i} geometry={geometry} matrix={matrix} matrixAutoUpdate={false} castShadow receiveShadow>
      <meshStandardMaterial vertexColors roughness={0.75} />
    </mesh>
  ));
}
