/** A part of a skin that is seen through. */
import { useMemo, useRef } from 'react';
import * as THREE from 'three';
import { type Clip, hiding } from './clip';
import type { Glass } from './glass';
import type { Drawable } from './meshes';
import type { Pickable } from './ResultMesh';
import { useCoarser } from './useCoarser';

type Props = {
  glass: Glass;
  /** The skin that it is of. */
  drawable: Drawable;
  ghost: boolean;
  planes: THREE.Plane[];
  clip?: Clip;
};

export function Pane({ glass, drawable, ghost, planes, clip }: Props) {
  const { id, number, opacity, geometry } = glass;
  const drawn = useRef<THREE.Group>(null);
  useCoarser(drawn, {
    mesh: drawable,
    whole: geometry,
    sifted: (corners) => corners.filter((_, c) => drawable.partOf[corners[c - (c % 3)] as number] === number),
  });
  const hidden = useMemo(hiding, []);
  hidden.put(clip);
  const userData = useMemo<Pickable>(() => ({ partAt: () => id, clip }), [id, clip]);
  return (
    <group ref={drawn}>
      <mesh geometry={geometry} userData={userData} renderOrder={1}>
        <meshStandardMaterial
          vertexColors
          roughness={0.35}
          transparent
          opacity={ghost ? 0.3 * opacity : opacity}
          depthWrite={false}
          // Its far side first, then the near one.
          side={THREE.DoubleSide}
          clippingPlanes={planes}
          onBeforeCompile={hidden.onBeforeCompile}
          customProgramCacheKey={hidden.customProgramCacheKey}
        />
      </mesh>
    </group>
  );
}
