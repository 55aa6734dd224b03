/** The joined skin, every triangle in its part's colour. */
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { Scene } from '../api/client';
import type { Known } from '../controls/tree';
import { CLAY, INK } from '../theme/glazes';
import type { Drawable } from './meshes';
import { useMesh } from './useMesh';

type Props = {
  result: Scene['result'];
  known: Map<string, Known>;
  /** Parts tinted as chosen. */
  held: Set<string>;
  /** Parts left out, because they are being dragged. */
  without: Set<string>;
  ghost: boolean;
  onLost: () => void;
};

/** Tags an object for picking: what a triangle of it belongs to. */
export type Pickable = { partAt: (face: number) => string | undefined };

export function ResultMesh({ result, known, held, without, ghost, onLost }: Props) {
  const shown = useMesh(result.triangles ? result.key : null, onLost);
  // The parts of the mesh in sight: while a new one loads, the old parts go on.
  const parts = useMemo(() => ({ key: result.key, ids: result.parts }), [result.key, result.parts]);
  const current = shown && shown.key === parts.key ? parts.ids : null;
  const geometry = useMemo(() => {
    if (!shown || !current) return null;
    const hidden = new Set([...known].filter(([, k]) => k.hidden).map(([id]) => id));
    return coloured(shown.mesh, current, known, held, (id) => without.has(id) || hidden.has(id));
  }, [shown, current, known, held, without]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  if (!geometry || !current || !shown) return null;
  const userData: Pickable = { partAt: (face) => current[shownPart(geometry, face)] };
  return (
    <mesh
      geometry={geometry}
      castShadow={!ghost}
      receiveShadow={!ghost}
      userData={userData}
      renderOrder={ghost ? 2 : 0}
    >
      <meshStandardMaterial
        key={ghost ? 'ghost' : 'solid'}
        vertexColors
        roughness={0.72}
        metalness={0}
        transparent={ghost}
        opacity={ghost ? 0.3 : 1}
        depthWrite={!ghost}
        side={ghost ? THREE.DoubleSide : THREE.FrontSide}
      />
    </mesh>
  );
}

const shownPart = (geometry: THREE.BufferGeometry, face: number): number =>
  (geometry.userData as { parts: number[] }).parts[face] ?? -1;

/** The drawable with a colour a corner, without the triangles of the parts that are to be left out. */
function coloured(
  { geometry, data }: Drawable,
  ids: string[],
  known: Map<string, Known>,
  held: Set<string>,
  leftOut: (id: string) => boolean,
): THREE.BufferGeometry {
  const glaze = new THREE.Color(INK.chosen);
  const colours = ids.map((id) => {
    const colour = new THREE.Color(known.get(id)?.colour ?? CLAY);
    return held.has(id) ? colour.lerp(glaze, 0.2) : colour;
  });
  const keep = ids.map((id) => !leftOut(id));
  const partOf = data.partOf ?? new Uint32Array(data.triangles.length / 3);
  const faces: number[] = [];
  partOf.forEach((p, f) => {
    if (keep[p]) faces.push(f);
  });
  const whole = faces.length === partOf.length;
  const found = new THREE.BufferGeometry();
  for (const name of ['position', 'normal']) {
    const attribute = geometry.getAttribute(name) as THREE.BufferAttribute;
    found.setAttribute(
      name,
      whole ? attribute : new THREE.BufferAttribute(pickFaces(attribute.array as Float32Array, faces), 3),
    );
  }
  const paint = new Float32Array(faces.length * 9);
  faces.forEach((f, i) => {
    const { r, g, b } = colours[partOf[f] as number] ?? glaze;
    for (let c = 0; c < 3; c++) paint.set([r, g, b], i * 9 + c * 3);
  });
  found.setAttribute('color', new THREE.BufferAttribute(paint, 3));
  found.userData = { parts: faces.map((f) => partOf[f]) };
  found.boundingSphere = geometry.boundingSphere;
  return found;
}

function pickFaces(array: Float32Array, faces: number[]): Float32Array {
  const found = new Float32Array(faces.length * 9);
  faces.forEach((f, i) => {
    found.set(array.subarray(f * 9, f * 9 + 9), i * 9);
  });
  return found;
}
