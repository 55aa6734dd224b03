/** The skin that the piece had at the step it is compared with, glassy, so that what was and what is are seen at once. */
import { useThree } from '@react-three/fiber';
import { useEffect } from 'react';
import * as THREE from 'three';
import { useComparedSteps } from '../api/history';
import { INK } from '../theme/ink';
import { useMesh } from '../viewport/useMesh';
import { useHistoryShown } from './shown';

export function EarlierSkin({ id, revision }: { id: string; revision: number }) {
  const compared = useHistoryShown((s) => s.compared);
  const skin = useComparedSteps(id, revision, compared?.id ?? null).data?.skin;
  const mesh = useMesh(compared && skin?.triangles ? skin.key : null);
  const invalidate = useThree((s) => s.invalidate);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn anew when it comes and goes
  useEffect(() => invalidate(), [invalidate, mesh]);
  if (!mesh) return null;
  return (
    <mesh geometry={mesh.mesh.geometry} raycast={() => null} renderOrder={5}>
      <meshStandardMaterial
        color={INK.keep}
        transparent
        opacity={0.34}
        depthWrite={false}
        side={THREE.FrontSide}
        polygonOffset
        polygonOffsetFactor={1}
        polygonOffsetUnits={1}
      />
    </mesh>
  );
}
