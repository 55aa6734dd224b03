/** Of a piece that is pulled apart: a dotted line from each line of the recipe to where it belongs, and its number. */
import { Html, Line } from '@react-three/drei';
import { useMemo } from 'react';
import * as THREE from 'three';
import { INK } from '../theme/ink';
import type { Unit } from './apart';
import { passed } from './passed';

/** More would cover each other. */
const MOST_NUMBERED = 60;

type Props = { units: Unit[]; by: Map<string, THREE.Vector3>; share: number };

export function ApartMarks({ units, by, share }: Props) {
  const marks = useMemo(
    () =>
      units.map(({ id, number, box }) => {
        const place = box.getCenter(new THREE.Vector3());
        const now = place.clone().addScaledVector(by.get(id) ?? new THREE.Vector3(), share);
        // It belongs to the first of them, wherever that is raised to.
        const home = place.addScaledVector(by.get(units[0]?.id ?? '') ?? new THREE.Vector3(), share);
        const top = now.clone().setZ(now.z + (box.max.z - box.min.z) / 2);
        return { id, number, home, now, top };
      }),
    [units, by, share],
  );
  const lines = marks
    .filter(({ home, now }) => home.distanceTo(now) > 1e-3)
    .flatMap(({ home, now }) => [home, now]);
  return (
    <>
      {lines.length > 0 && (
        <Line
          key={lines.length}
          points={lines}
          segments
          color={INK.ink}
          lineWidth={1}
          dashed
          dashSize={1.4}
          gapSize={1.1}
          transparent
          opacity={0.75}
          raycast={passed}
        />
      )}
      {marks.length <= MOST_NUMBERED &&
        marks.map(({ id, number, top }) => (
          <Html
            key={id}
            position={top}
            center
            zIndexRange={[6, 5]}
            className="apart-number"
            wrapperClass="see-through"
          >
            {number}
          </Html>
        ))}
    </>
  );
}
