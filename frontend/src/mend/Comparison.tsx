/** Mended meshes before and after: one or the other, side by side, with a wiper between them, or by how far they moved. */

import { useFrame, useThree } from '@react-three/fiber';
import { type ReactNode, useEffect, useMemo, useRef } from 'react';
import * as THREE from 'three';
import type { Scene } from '../api/client';
import type { Known } from '../controls/tree';
import { INK } from '../theme/ink';
import { wholeBox } from '../viewport/boxes';
import { MeshPart, MovedMesh } from './MeshParts';
import type { ComparedMeshes } from './useCompared';

export type Comparing = 'before' | 'after' | 'beside' | 'wiper' | 'moved';
export const COMPARINGS: { look: Comparing; word: string }[] = [
  { look: 'before', word: 'Before' },
  { look: 'after', word: 'After' },
  { look: 'beside', word: 'Side by side' },
  { look: 'wiper', word: 'Wiper' },
  { look: 'moved', word: 'How far it moved' },
];

const APART = 0.36;

/** The box that is to be in sight: side by side takes twice the room. */
export function roomFor(look: Comparing, box: THREE.Box3): THREE.Box3 {
  const long = box.getSize(new THREE.Vector3()).length();
  return look === 'beside' ? box.clone().expandByVector(new THREE.Vector3(APART * long, 0, 0)) : box;
}

/** wiped: where the wiper stands across the view, 0 at its left to 1 at its right. */
type Props = {
  scene: Scene;
  compared: ComparedMeshes;
  look: Comparing;
  known: Map<string, Known>;
  wiped: number;
};

/** What stands in the view instead of the piece as it is; nothing for `after`. */
export function Comparison({ scene, compared, look, known, wiped }: Props) {
  const box = useMemo(() => wholeBox(scene), [scene]);
  const all = (which: 'before' | 'after', planes?: THREE.Plane[]) =>
    compared.pairs.map((pair) => {
      const view = scene.parts.find((v) => v.id === pair.part);
      const colour = known.get(pair.part)?.colour ?? INK.clay;
      return (
        view && <MeshPart key={pair.part} meshKey={pair[which]} view={view} colour={colour} planes={planes} />
      );
    });
  switch (look) {
    case 'after':
      return null;
    case 'before':
      return all('before');
    case 'beside':
      return (
        <>
          <Aside by={-APART} box={box}>
            {all('before')}
          </Aside>
          <Aside by={APART} box={box}>
            {all('after')}
          </Aside>
        </>
      );
    case 'wiper':
      return <Wiped at={wiped} before={(p) => all('before', p)} after={(p) => all('after', p)} />;
    case 'moved':
      return compared.pairs.map((pair, i) => {
        const view = scene.parts.find((v) => v.id === pair.part);
        return (
          view && (
            <MovedMesh
              key={pair.part}
              pair={pair}
              view={view}
              moved={compared.moved[i]}
              most={compared.most}
            />
          )
        );
      });
  }
}

/** Its children moved to the left or right as the camera sees it: both sides stay in one view, and so turn together. */
function Aside({ by, box, children }: { by: number; box: THREE.Box3; children: ReactNode }) {
  const group = useRef<THREE.Group>(null);
  const wide = box.getSize(new THREE.Vector3()).length() * by;
  useFrame(({ camera }) => {
    group.current?.position.copy(rightOf(camera)).multiplyScalar(wide);
  });
  return <group ref={group}>{children}</group>;
}

type Point = THREE.Vector3;

type WipedProps = {
  at: number;
  before: (planes: THREE.Plane[]) => ReactNode;
  after: (planes: THREE.Plane[]) => ReactNode;
};

/** Two bodies cut on the plane that the camera sees as an upright line: left of it the one before, right of it the one after. */
function Wiped({ at, before, after }: WipedProps) {
  const planes = useMemo(() => [new THREE.Plane(), new THREE.Plane()] as const, []);
  const { gl, invalidate } = useThree();
  useEffect(() => {
    gl.localClippingEnabled = true;
    invalidate();
  }, [gl, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn anew where the wiper stands
  useEffect(invalidate, [at]);
  useFrame(({ camera }) => {
    const [near, far, above] = [
      [0, -1],
      [0, 1],
      [1, -1],
    ].map(([y, z]) => new THREE.Vector3(2 * at - 1, y, z).unproject(camera)) as [Point, Point, Point];
    planes[1].setFromCoplanarPoints(near, above, far);
    if (planes[1].normal.dot(rightOf(camera)) < 0) planes[1].negate();
    planes[0].copy(planes[1]).negate();
  });
  return (
    <>
      {before([planes[0]])}
      {after([planes[1]])}
    </>
  );
}

const rightOf = (camera: THREE.Camera) => new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 0);
