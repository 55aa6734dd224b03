/** A finding drawn on the piece: its lines and faces, a loose body tinted, and a ring around the place. */
import { Billboard, Line } from '@react-three/drei';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { INK } from '../theme/ink';
import { useMesh } from '../viewport/useMesh';
import type { Finding } from './finding';

export function FindingMark({ finding, now, reach }: { finding: Finding; now: boolean; reach: number }) {
  const shown = useMesh(finding.meshKey);
  const least = Math.max(reach * (now ? 0.06 : 0.03), 0.01);
  const ring = useMemo(() => circle(Math.max(least, 0.55 * finding.reach)), [least, finding.reach]);
  const colour = finding.severity === 'harmless' ? INK.keep : INK.flaw;
  return (
    <>
      {shown && (
        <mesh geometry={shown.mesh.geometry} renderOrder={6}>
          <meshStandardMaterial
            color={colour}
            roughness={0.7}
            polygonOffset
            polygonOffsetFactor={-2}
            polygonOffsetUnits={-2}
          />
        </mesh>
      )}
      {finding.drawn && <Drawn drawn={finding.drawn} colour={colour} now={now} />}
      {(now || !finding.drawn) && (
        <Billboard position={finding.at}>
          <Line points={ring} color={colour} lineWidth={now ? 4 : 2.5} depthTest={false} renderOrder={8} />
        </Billboard>
      )}
    </>
  );
}

function Drawn({
  drawn,
  colour,
  now,
}: {
  drawn: NonNullable<Finding['drawn']>;
  colour: string;
  now: boolean;
}) {
  const points = useMemo(() => placed(drawn.lines, drawn.matrix), [drawn]);
  const faces = useMemo(() => {
    const found = new THREE.BufferGeometry();
    const corners = placed(drawn.faces, drawn.matrix).flatMap((p) => p.toArray());
    found.setAttribute('position', new THREE.Float32BufferAttribute(corners, 3));
    return found;
  }, [drawn]);
  useEffect(() => () => faces.dispose(), [faces]);
  return (
    <>
      {points.length > 1 && (
        <Line
          points={points}
          segments
          color={colour}
          lineWidth={now ? 5 : 3}
          depthTest={false}
          renderOrder={7}
        />
      )}
      {drawn.faces.length > 0 && (
        <mesh geometry={faces} renderOrder={6}>
          <meshBasicMaterial
            color={colour}
            side={THREE.DoubleSide}
            transparent
            opacity={now ? 0.85 : 0.55}
            depthTest={false}
          />
        </mesh>
      )}
    </>
  );
}

function placed(numbers: number[], matrix: THREE.Matrix4): THREE.Vector3[] {
  return Array.from({ length: numbers.length / 3 }, (_, i) =>
    new THREE.Vector3().fromArray(numbers, 3 * i).applyMatrix4(matrix),
  );
}

function circle(radius: number): THREE.Vector3[] {
  return Array.from({ length: 49 }, (_, i) => {
    const angle = (i * Math.PI) / 24;
    return new THREE.Vector3(radius * Math.cos(angle), radius * Math.sin(angle), 0);
  });
}
