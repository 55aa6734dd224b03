/** The joined skin, every triangle in its part's colour. */
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { Known } from '../controls/tree';
import { INK } from '../theme/ink';
import type { Clip } from './clip';
import type { Drawable } from './meshes';
import './quickRaycast';
import { useSectionPlanes } from './section';
import { useMesh } from './useMesh';
import { useShadows } from './useShadows';

type Paint = {
  known: Map<string, Known>;
  /** Parts tinted as chosen. */
  held: Set<string>;
  /** Parts whose triangles are not drawn. */
  without: Set<string>;
  /** The only parts that are not dimmed; null for all. */
  lit: Set<string> | null;
  ghost: boolean;
  /** What of it is drawn; all when left out. */
  clip?: Clip;
};

type Props = Paint & {
  result: { key: string | null; parts: string[] };
  onLost?: () => void;
};

/** Tags an object for picking: what a triangle of it belongs to. */
export type Pickable = { partAt: (face: number) => string | undefined; clip?: Clip };

/** A joined skin that lies on the server under a key. */
export function ResultMesh({ result, onLost, ...paint }: Props) {
  const shown = useMesh(result.key, onLost);
  // The parts of the mesh in sight: while a new one loads, the old parts go on.
  const parts = useMemo(() => ({ key: result.key, ids: result.parts }), [result.key, result.parts]);
  if (!shown || shown.key !== parts.key) return null;
  return <Skin drawable={shown.mesh} parts={parts.ids} {...paint} />;
}

/** A joined skin, every triangle in its part's colour. */
export function Skin({
  drawable,
  parts,
  known,
  held,
  without,
  lit,
  ghost,
  clip,
}: Paint & { drawable: Drawable; parts: string[] }) {
  const geometry = useMemo(
    () => coloured(drawable, parts, { known, held, without, lit }),
    [drawable, parts, known, held, without, lit],
  );
  useEffect(() => () => geometry.dispose(), [geometry]);
  useShadows();
  const section = useSectionPlanes();
  // A section shows what is counted: a box cannot be cut as well.
  const planes = section.length ? section : (clip?.planes ?? []);
  const userData: Pickable = { partAt: (face) => parts[shownPart(geometry, face)], clip };
  return (
    <>
      {section.length > 0 && (
        <mesh geometry={geometry} raycast={() => null}>
          <meshBasicMaterial color={INK.section} side={THREE.BackSide} clippingPlanes={section} />
        </mesh>
      )}
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
          clippingPlanes={planes}
          clipIntersection={section.length === 0 && clip?.side === 'outside'}
        />
      </mesh>
    </>
  );
}

const shownPart = (geometry: THREE.BufferGeometry, face: number): number =>
  (geometry.userData as { parts: number[] }).parts[face] ?? -1;

/** The drawable with a colour a corner, without the triangles of the parts that are to be left out. */
function coloured(
  { geometry, data }: Drawable,
  ids: string[],
  { known, held, without, lit }: Omit<Paint, 'ghost' | 'clip'>,
): THREE.BufferGeometry {
  const glaze = new THREE.Color(INK.chosen);
  const paper = new THREE.Color(INK.paper);
  const colours = ids.map((id) => {
    const colour = new THREE.Color(known.get(id)?.colour ?? INK.clay);
    if (held.has(id)) return colour.lerp(glaze, 0.2);
    return lit && !lit.has(id) ? colour.lerp(paper, 0.72) : colour;
  });
  const keep = ids.map((id) => !without.has(id));
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
  found.userData = { parts: faces.map((f) => partOf[f]), base: whole ? geometry : undefined };
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
