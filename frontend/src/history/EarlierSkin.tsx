/**
 * The skin that the piece had at the step it is compared with, glassy, so that what was and what is are seen at once; and
 * where two steps are compared, that of the later one in the piece's place.
 */
import type * as THREE from 'three';
import { FrontSide } from 'three';
import { useComparedSteps } from '../api/history';
import { INK } from '../theme/ink';
import { passed } from '../viewport/passed';
import { useMesh } from '../viewport/useMesh';
import { useHistoryShown } from './shown';

/** Whether the view shows two earlier states, and not the piece. */
export const useBothEarlier = () => useHistoryShown((s) => s.compared !== null && s.later !== null);

export function EarlierSkin({ id, revision }: { id: string; revision: number }) {
  const { compared, later } = useHistoryShown();
  const found = useComparedSteps(id, revision, compared?.id ?? null, later?.id ?? null).data;
  const was = useMesh(compared && found?.skin?.triangles ? found.skin.key : null)?.mesh.geometry;
  const then = useMesh(later && found?.later?.triangles ? found.later.key : null)?.mesh.geometry;
  return (
    <>
      {later && then && <Solid geometry={then} />}
      {compared && was && <Glassy geometry={was} />}
    </>
  );
}

type Props = { geometry: THREE.BufferGeometry };

const Solid = ({ geometry }: Props) => (
  <mesh geometry={geometry} raycast={passed} castShadow receiveShadow>
    <meshStandardMaterial color={INK.clay} roughness={0.9} />
  </mesh>
);

const Glassy = ({ geometry }: Props) => (
  <mesh geometry={geometry} raycast={passed} renderOrder={5}>
    <meshStandardMaterial
      color={INK.keep}
      transparent
      opacity={0.34}
      depthWrite={false}
      side={FrontSide}
      polygonOffset
      polygonOffsetFactor={1}
      polygonOffsetUnits={1}
    />
  </mesh>
);
