/** The bed: a plate with a line every 20 mm, and how high the printer reaches over its corners. */
import { useMemo } from 'react';
import * as THREE from 'three';
import { INK } from '../theme/ink';
import { passed } from '../viewport/passed';

const STEP = 20;
/** Of the plate, as three.js numbers them; from under the bed one looks through it. */
const SIDES = ['right', 'left', 'back', 'front', 'top', 'under'];

export function BedPlate({ wide, deep, high }: { wide: number; deep: number; high: number }) {
  const lines = useMemo(() => lineGeometry(wide, deep), [wide, deep]);
  const posts = useMemo(() => postGeometry(wide, deep, high), [wide, deep, high]);
  const thick = Math.max(2, wide / 60);
  return (
    <group>
      <mesh receiveShadow position={[0, 0, -thick / 2 - 0.05]} raycast={passed}>
        <boxGeometry args={[wide, deep, thick]} />
        {SIDES.map((side, i) => (
          <meshLambertMaterial
            key={side}
            attach={`material-${i}`}
            color={INK.floor}
            visible={side !== 'under'}
          />
        ))}
      </mesh>
      <lineSegments geometry={lines} raycast={passed}>
        <lineBasicMaterial color={INK.floorLine} transparent opacity={0.55} />
      </lineSegments>
      <lineSegments geometry={posts} raycast={passed}>
        <lineBasicMaterial color={INK.floorRim} transparent opacity={0.5} />
      </lineSegments>
    </group>
  );
}

const segments = (points: number[]) =>
  new THREE.BufferGeometry().setAttribute('position', new THREE.Float32BufferAttribute(points, 3));

function lineGeometry(wide: number, deep: number): THREE.BufferGeometry {
  const points: number[] = [];
  const [x, y] = [wide / 2, deep / 2];
  const step = STEP * Math.max(1, Math.ceil(Math.max(wide, deep) / STEP / 40));
  for (let k = Math.ceil(-x / step); k * step <= x; k++) points.push(k * step, -y, 0, k * step, y, 0);
  for (let k = Math.ceil(-y / step); k * step <= y; k++) points.push(-x, k * step, 0, x, k * step, 0);
  return segments(points);
}

/** The edges of the room over the bed, but for those on it. */
function postGeometry(wide: number, deep: number, high: number): THREE.BufferGeometry {
  const [x, y] = [wide / 2, deep / 2];
  const corners = [
    [-x, -y],
    [x, -y],
    [x, y],
    [-x, y],
  ] as [number, number][];
  return segments(
    corners.flatMap(([a, b], i) => {
      const [c, d] = corners[(i + 1) % 4] as [number, number];
      return [a, b, 0, a, b, high, a, b, high, c, d, high];
    }),
  );
}
