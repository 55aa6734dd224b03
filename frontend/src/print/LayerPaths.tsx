/** The print as far as one layer: the body below it, and on top the lines as they are laid. */
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import * as THREE from 'three';
import { type Lying, type Printer, type Settings, usePrintBytes } from '../api/printing';
import { INK } from '../theme/ink';
import { useCoarser } from '../viewport/useCoarser';
import { spotsOf } from './bedPlaces';
import { PATHS } from './looks';
import { type Paths, readPaths, useMaps } from './maps';

type Props = { job: string; lies: Lying; layer: number; settings: Settings; printer: Printer };

export function LayerPaths({ job, lies, layer, settings, printer }: Props) {
  const bytes = usePrintBytes(job, `layers/${layer}`);
  const { gl, invalidate } = useThree();
  const maps = useMaps(job);
  const top = Math.min((layer + 1) * settings.layer, lies.size[2]);
  const paths = useMemo(
    () => bytes && ribbons(readPaths(bytes), 1.05 * printer.nozzle),
    [bytes, printer.nozzle],
  );
  const below = useMemo(() => [new THREE.Plane(new THREE.Vector3(0, 0, -1), top)], [top]);
  useEffect(() => {
    gl.localClippingEnabled = true;
  }, [gl]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn when there is something new to draw
  useEffect(invalidate, [paths, top, maps]);
  useEffect(() => () => paths?.dispose(), [paths]);
  const spots = useMemo(() => spotsOf(lies), [lies]);
  const drawn = useRef<THREE.Group>(null);
  // The skin below is drawn twice: its outside, and where it is cut its inside.
  useCoarser(drawn, { mesh: maps?.mesh, copies: 2 * spots.length });
  const all = spots.map((matrix, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: a copy has no other name
    <group key={i} matrix={matrix} matrixAutoUpdate={false}>
      {maps && (
        <>
          <mesh geometry={maps.mesh.geometry}>
            <meshStandardMaterial color={INK.clay} roughness={0.75} clippingPlanes={below} />
          </mesh>
          <mesh geometry={maps.mesh.geometry}>
            <meshBasicMaterial color={INK.section} side={THREE.BackSide} clippingPlanes={below} />
          </mesh>
        </>
      )}
      {paths && (
        <mesh geometry={paths} position={[0, 0, top + 0.02]}>
          <meshBasicMaterial vertexColors side={THREE.DoubleSide} />
        </mesh>
      )}
    </group>
  ));
  return <group ref={drawn}>{all}</group>;
}

/** Each line as a flat band, a little narrower than it is laid, so that one is told from the next. */
function ribbons({ lines, kinds }: Paths, wide: number): THREE.BufferGeometry {
  const colours = PATHS.map(({ colour }) => new THREE.Color(colour()));
  const position = new Float32Array(kinds.length * 12);
  const colour = new Float32Array(kinds.length * 12);
  const index = new Uint32Array(kinds.length * 6);
  kinds.forEach((kind, i) => {
    const [ax, ay, bx, by] = lines.subarray(4 * i, 4 * i + 4) as unknown as [number, number, number, number];
    const long = Math.hypot(bx - ax, by - ay) || 1;
    const x = (-(by - ay) / long) * 0.42 * wide;
    const y = ((bx - ax) / long) * 0.42 * wide;
    position.set([ax + x, ay + y, 0, ax - x, ay - y, 0, bx - x, by - y, 0, bx + x, by + y, 0], 12 * i);
    for (let c = 0; c < 4; c++) (colours[kind] as THREE.Color).toArray(colour, 12 * i + 3 * c);
    index.set(
      [0, 1, 2, 0, 2, 3].map((c) => 4 * i + c),
      6 * i,
    );
  });
  const found = new THREE.BufferGeometry();
  found.setAttribute('position', new THREE.BufferAttribute(position, 3));
  found.setAttribute('color', new THREE.BufferAttribute(colour, 3));
  found.setIndex(new THREE.BufferAttribute(index, 1));
  return found;
}
