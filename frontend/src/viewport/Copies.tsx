/** One mesh drawn where each of its copies stands, all in one call; those that are mirrored in another. */
import { useLayoutEffect, useMemo, useRef } from 'react';
import * as THREE from 'three';
import './quickRaycast';

type Props = {
  geometry: THREE.BufferGeometry;
  matrices: THREE.Matrix4[];
  castShadow: boolean;
  receiveShadow: boolean;
  userData: object | undefined;
  renderOrder: number;
  children: React.ReactNode;
};

const MIRROR = new THREE.Matrix4().makeScale(-1, 1, 1);

export function Copies({ matrices, ...mesh }: Props) {
  const [straight, mirrored] = useMemo(
    () => [
      matrices.filter((m) => m.determinant() >= 0),
      // The mirroring is the mesh's own, so that its front faces stay in front.
      matrices.filter((m) => m.determinant() < 0).map((m) => MIRROR.clone().multiply(m)),
    ],
    [matrices],
  );
  return (
    <>
      <Instances matrices={straight} {...mesh} />
      <Instances matrices={mirrored} frame={MIRROR} {...mesh} />
    </>
  );
}

type InstanceProps = Props & { frame?: THREE.Matrix4 };

function Instances({ geometry, matrices, frame, children, ...more }: InstanceProps) {
  const [only] = matrices;
  if (!only) return null;
  if (matrices.length === 1 && !frame) {
    return (
      <mesh geometry={geometry} matrix={only} matrixAutoUpdate={false} {...more}>
        {children}
      </mesh>
    );
  }
  return (
    // Room is made for so many, once.
    <Many
      key={`${geometry.uuid} ${matrices.length}`}
      geometry={geometry}
      matrices={matrices}
      frame={frame}
      {...more}
    >
      {children}
    </Many>
  );
}

function Many({ geometry, matrices, frame, children, ...more }: InstanceProps) {
  const ref = useRef<THREE.InstancedMesh>(null);
  useLayoutEffect(() => {
    const mesh = ref.current;
    if (!mesh) return;
    matrices.forEach((matrix, i) => {
      mesh.setMatrixAt(i, matrix);
    });
    mesh.instanceMatrix.needsUpdate = true;
    mesh.computeBoundingSphere();
  }, [matrices]);
  return (
    <instancedMesh
      ref={ref}
      args={[geometry, undefined, matrices.length]}
      matrix={frame}
      matrixAutoUpdate={frame === undefined}
      {...more}
    >
      {children}
    </instancedMesh>
  );
}
