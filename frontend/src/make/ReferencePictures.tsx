/** The reference pictures of a piece, each on its plane, dimmed; the one in hand with an edge. */
import { Line } from '@react-three/drei';
import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useState } from 'react';
import * as THREE from 'three';
import { create } from 'zustand';
import type { ReferencePicture } from '../api/client';
import { INK } from '../theme/ink';
import { passed } from '../viewport/passed';
import { matrixOfPicture, type Reference } from './references';

/** Which one is in hand, and how it is meanwhile while it is dragged. */
export const useInHand = create<{ id: string | null; meanwhile: Reference | null }>(() => ({
  id: null,
  meanwhile: null,
}));

export function ReferencePictures({ pictures }: { pictures: ReferencePicture[] }) {
  const { id, meanwhile } = useInHand();
  return (pictures as Reference[])
    .filter((p) => !p.hidden)
    .map((p) => <Picture key={p.id} picture={meanwhile?.id === p.id ? meanwhile : p} chosen={p.id === id} />);
}

const EDGE: [number, number, number][] = [
  [-0.5, -0.5, 0],
  [0.5, -0.5, 0],
  [0.5, 0.5, 0],
  [-0.5, 0.5, 0],
  [-0.5, -0.5, 0],
];

function Picture({ picture, chosen }: { picture: Reference; chosen: boolean }) {
  const { texture, missing } = useTexture(`/api/pictures/${picture.asset}.${picture.ending}`);
  const matrix = useMemo(() => matrixOfPicture(picture), [picture]);
  return (
    <group matrixAutoUpdate={false} matrix={matrix}>
      {texture && (
        <mesh raycast={passed} renderOrder={-1}>
          <planeGeometry />
          <meshBasicMaterial
            map={texture}
            transparent
            opacity={picture.opacity}
            side={THREE.DoubleSide}
            depthWrite={false}
          />
        </mesh>
      )}
      {(chosen || missing) && (
        <Line points={EDGE} color={missing ? INK.flaw : INK.chosen} lineWidth={1.6} raycast={passed} />
      )}
    </group>
  );
}

/** A picture of the server's, once it is there. */
function useTexture(address: string): { texture: THREE.Texture | null; missing: boolean } {
  const [found, setFound] = useState<{ texture: THREE.Texture | null; missing: boolean }>({
    texture: null,
    missing: false,
  });
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    let current = true;
    const tell = (texture: THREE.Texture | null) => {
      if (!current) return texture?.dispose();
      setFound({ texture, missing: texture === null });
      invalidate();
    };
    const texture = new THREE.TextureLoader().load(
      address,
      () => {
        texture.colorSpace = THREE.SRGBColorSpace;
        tell(texture);
      },
      undefined,
      () => tell(null),
    );
    return () => {
      current = false;
      texture.dispose();
    };
  }, [address, invalidate]);
  return found;
}
