/** A finding drawn on the piece: the loose body tinted, and a ring around the place. */
import { Billboard, Line } from '@react-three/drei';
import { useMemo } from 'react';
import * as THREE from 'three';
import { INK } from '../theme/glazes';
import { useMesh } from '../viewport/useMesh';
import type { Finding } from './findingList';

export function FindingMark({ finding, now, reach }: { finding: Finding; now: boolean; reach: number }) {
  const shown = useMesh(finding.meshKey);
  const ring = useMemo(() => circle(Math.max(2, reach * (now ? 0.06 : 0.045))), [reach, now]);
  const colour = finding.group === 'loose' ? INK.flaw : INK.keep;
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
      <Billboard position={finding.at}>
        <Line points={ring} color={colour} lineWidth={now ? 4 : 2.5} depthTest={false} renderOrder={8} />
      </Billboard>
    </>
  );
}

function circle(radius: number): THREE.Vector3[] {
  return Array.from({ length: 49 }, (_, i) => {
    const angle = (i * Math.PI) / 24;
    return new THREE.Vector3(radius * Math.cos(angle), radius * Math.sin(angle), 0);
  });
}
