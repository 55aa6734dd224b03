/** The wheel: the round floor at z = 0, with a ring every 10 mm and a mark at the front. */
import { useMemo } from 'react';
import * as THREE from 'three';
import { INK } from '../theme/glazes';

export function Wheel({ radius }: { radius: number }) {
  const rings = useMemo(() => ringLines(radius), [radius]);
  const mark = useMemo(() => frontMark(radius), [radius]);
  return (
    <group>
      <mesh receiveShadow position={[0, 0, -0.06]} raycast={() => null}>
        <circleGeometry args={[radius, 128]} />
        <meshStandardMaterial color={INK.floor} roughness={1} />
      </mesh>
      <lineSegments geometry={rings} raycast={() => null}>
        <lineBasicMaterial color="#a8946a" transparent opacity={0.55} />
      </lineSegments>
      <mesh geometry={mark} position={[0, 0, 0.02]} raycast={() => null}>
        <meshBasicMaterial color="#b7a478" />
      </mesh>
    </group>
  );
}

/** Rings every 10 mm (50 mm on a large wheel) and the two axes. */
function ringLines(radius: number): THREE.BufferGeometry {
  const step = radius > 300 ? 50 : 10;
  const points: number[] = [-radius, 0, 0, radius, 0, 0, 0, -radius, 0, 0, radius, 0];
  for (let r = step; r <= radius; r += step) {
    for (let i = 0; i < 96; i++) {
      for (const t of [i, i + 1])
        points.push(r * Math.cos((t * Math.PI) / 48), r * Math.sin((t * Math.PI) / 48), 0);
    }
  }
  return new THREE.BufferGeometry().setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
}

function frontMark(radius: number): THREE.BufferGeometry {
  const shape = new THREE.Shape();
  shape.moveTo(0, -radius + 1);
  shape.lineTo(1.8, -radius + 4);
  shape.lineTo(-1.8, -radius + 4);
  return new THREE.ShapeGeometry(shape);
}

/** A wheel that holds everything in sight: a multiple of 10 mm, at least 60. */
export function wheelRadius(corners: number[][]): number {
  const reach = Math.max(0, ...corners.map(([x, y]) => Math.hypot(x ?? 0, y ?? 0)));
  return Math.max(60, Math.ceil((reach + 12) / 10) * 10);
}
