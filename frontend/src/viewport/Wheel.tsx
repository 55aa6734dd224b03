/** The wheel: the round floor at z = 0, with rings at round distances and a mark at the front. */
import { useMemo } from 'react';
import * as THREE from 'three';
import { INK } from '../theme/ink';
import { passed } from './passed';

/** What the floor is called in the scene. */
export const FLOOR = 'floor';

export function Wheel({ radius }: { radius: number }) {
  const rings = useMemo(() => ringLines(radius), [radius]);
  const mark = useMemo(() => frontMark(radius), [radius]);
  return (
    <group name={FLOOR}>
      <mesh receiveShadow position={[0, 0, -Math.max(0.06, radius / 4000)]} raycast={passed}>
        <circleGeometry args={[radius, 128]} />
        <meshLambertMaterial color={INK.floor} />
      </mesh>
      <lineSegments geometry={rings} raycast={passed}>
        <lineBasicMaterial color={INK.floorLine} transparent opacity={0.55} />
      </lineSegments>
      <mesh geometry={mark} position={[0, 0, 0.02]} raycast={passed}>
        <meshBasicMaterial color={INK.floorRim} />
      </mesh>
    </group>
  );
}

const MOST_RINGS = 15;
const LEAST_STEP = 10;

/** mm between rings: 10, 20, 50, 100, 200 and so on, so that there are at most `MOST_RINGS`. */
function ringStep(radius: number): number {
  let step = LEAST_STEP;
  for (let i = 0; radius / step > MOST_RINGS; i++) step *= i % 3 === 1 ? 2.5 : 2;
  return step;
}

/** The rings and the two axes. */
function ringLines(radius: number): THREE.BufferGeometry {
  const step = ringStep(radius);
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
  const unit = Math.max(1, radius / 150);
  shape.moveTo(0, -radius + unit);
  shape.lineTo(1.8 * unit, -radius + 4 * unit);
  shape.lineTo(-1.8 * unit, -radius + 4 * unit);
  return new THREE.ShapeGeometry(shape);
}

/** A wheel that holds everything in sight: a multiple of 10 mm, at least 60. */
export function wheelRadius(corners: number[][]): number {
  const reach = Math.max(0, ...corners.map(([x, y]) => Math.hypot(x ?? 0, y ?? 0)));
  return Math.max(60, Math.ceil((reach + 12) / 10) * 10);
}
