/** The joined skin, every triangle in its part's colour. */
import { useEffect, useMemo, useRef, useState } from 'react';
import * as THREE from 'three';
import { usePreferences } from '../api/preferences';
import { useEditor } from '../controls/editor';
import type { Known } from '../controls/tree';
import { INK } from '../theme/ink';
import { paintBands } from './bands';
import { type Clip, hiding } from './clip';
import { glassOf, isGlass } from './glass';
import { cornerColours, radiusBetween, runOver } from './glazes';
import type { Drawable } from './meshes';
import './quickRaycast';
import { shaping } from './aside/workers';
import { Pane } from './Pane';
import { passed } from './passed';
import { useSectionPlanes } from './section';
import { useCoarser } from './useCoarser';
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

/** A joined skin that lies on the server under a key; while a new one loads, the one before it goes on. */
export function ResultMesh({ result, onLost, ...paint }: Props) {
  const shown = useSkin(result.key, result.parts, onLost);
  return shown && <Skin drawable={shown.drawable} parts={shown.parts} {...paint} />;
}

/** The mesh of a key with the parts that it is of; while a new one loads, the one before it with its own parts. */
export function useSkin(key: string | null, parts: string[], onLost?: () => void) {
  const shown = useMesh(key, onLost);
  const last = useRef({ key, parts });
  if (shown?.key === key) last.current = { key, parts };
  if (!shown || shown.key !== last.current.key) return null;
  return { drawable: shown.mesh, parts: last.current.parts, latest: shown.key === key };
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
  const surface = useEditor((s) => s.surface);
  const glazed = surface === 'glazed';
  const mixed = usePreferences().glazes === 'mixed' && glazed;
  const geometry = useMemo(
    () => coloured(drawable, parts, { known, held, without, lit }, glazed ? null : INK.plain, mixed),
    [drawable, parts, known, held, without, lit, glazed, mixed],
  );
  useEffect(() => () => geometry.dispose(), [geometry]);
  const skin = useRef<THREE.Group>(null);
  useCoarser(skin, {
    mesh: drawable,
    whole: geometry,
    sifted: (corners) => staying(corners, drawable.partOf, (geometry.userData as Shown).left),
  });
  const glass = useMemo(
    () => glassOf(drawable, parts, known, without, geometry),
    [drawable, parts, known, without, geometry],
  );
  useEffect(
    () => () => {
      for (const part of glass) part.geometry.dispose();
    },
    [glass],
  );
  useShadows(geometry, ghost);
  const section = useSectionPlanes();
  const planes = useMemo(() => [...section, ...(clip?.planes ?? [])], [section, clip]);
  const [outer, inner, wires] = useMemo(() => [hiding(), hiding(), hiding()], []);
  for (const part of [outer, inner, wires]) part.put(clip);
  // Kept from one rendering to the next: for new ones the view would be drawn anew.
  const userData = useMemo<Pickable>(
    () => ({ partAt: (face) => parts[shownPart(geometry, face)], clip }),
    [parts, geometry, clip],
  );
  const clay = useMemo(
    () => ({
      onBeforeCompile: (shader: THREE.WebGLProgramParametersWithUniforms) => {
        outer.onBeforeCompile(shader);
        if (surface === 'bands') paintBands(shader);
      },
      customProgramCacheKey: () => `${outer.customProgramCacheKey()} ${surface}`,
    }),
    [outer, surface],
  );
  return (
    <group ref={skin}>
      {section.length > 0 && (
        <mesh geometry={geometry} raycast={passed}>
          <meshBasicMaterial
            color={INK.section}
            side={THREE.BackSide}
            clippingPlanes={planes}
            onBeforeCompile={inner.onBeforeCompile}
            customProgramCacheKey={inner.customProgramCacheKey}
          />
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
          key={`${ghost ? 'ghost' : 'solid'} ${surface}`}
          vertexColors
          roughness={0.72}
          metalness={0}
          transparent={ghost}
          opacity={ghost ? 0.3 : 1}
          depthWrite={!ghost}
          side={ghost ? THREE.DoubleSide : THREE.FrontSide}
          clippingPlanes={planes}
          polygonOffset={surface === 'wires'}
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
          {...clay}
        />
      </mesh>
      {glass.map((part) => (
        <Pane key={part.id} glass={part} drawable={drawable} ghost={ghost} planes={planes} clip={clip} />
      ))}
      {surface === 'wires' && (
        <mesh geometry={geometry} raycast={passed}>
          <meshBasicMaterial
            wireframe
            color={INK.ink}
            transparent
            opacity={0.3}
            clippingPlanes={planes}
            onBeforeCompile={wires.onBeforeCompile}
            customProgramCacheKey={wires.customProgramCacheKey}
          />
        </mesh>
      )}
      {surface === 'bands' && <SharpEdges geometry={geometry} planes={planes} />}
    </group>
  );
}

/** parts: the part of every triangle that is drawn. left: of every part, whether its triangles are left out. */
type Shown = { parts: Uint32Array; left: boolean[]; base?: THREE.BufferGeometry };

const shownPart = ({ userData }: THREE.BufferGeometry, face: number): number =>
  (userData as Shown).parts[face] ?? -1;

/** Of the corners of triangles, those of parts that are not left out. */
function staying(corners: Uint32Array, partOf: Uint32Array, left: boolean[]): Uint32Array {
  return left.some(Boolean)
    ? corners.filter((_, c) => !left[partOf[corners[c - (c % 3)] as number] as number])
    : corners;
}

function SharpEdges({ geometry, planes }: { geometry: THREE.BufferGeometry; planes: THREE.Plane[] }) {
  const [edges, setEdges] = useState<THREE.BufferGeometry | null>(null);
  useEffect(() => {
    let current = true;
    const index = geometry.index as THREE.BufferAttribute;
    shaping
      .sharpEdges(geometry.getAttribute('position').array as Float32Array, index.array as Uint32Array)
      .then(
        (points) => {
          if (!current) return;
          const found = new THREE.BufferGeometry();
          setEdges(found.setAttribute('position', new THREE.BufferAttribute(points, 3)));
        },
        () => undefined, // the bands are there without them
      );
    return () => {
      current = false;
    };
  }, [geometry]);
  useEffect(() => () => edges?.dispose(), [edges]);
  if (!edges) return null;
  return (
    <lineSegments geometry={edges} raycast={passed}>
      <lineBasicMaterial color={INK.flaw} clippingPlanes={planes} />
    </lineSegments>
  );
}

/** The drawable with a colour a corner, or `plain` all over, without the triangles of parts that are left out, or glass. */
function coloured(
  drawable: Drawable,
  ids: string[],
  { known, held, without, lit }: Omit<Paint, 'ghost' | 'clip'>,
  plain: string | null,
  mixed: boolean,
): THREE.BufferGeometry {
  const { geometry, data, partOf } = drawable;
  const glaze = new THREE.Color(INK.chosen);
  const paper = new THREE.Color(INK.paper);
  const colours = ids.map((id) => {
    const colour = new THREE.Color(plain ?? known.get(id)?.colour ?? INK.clay);
    if (held.has(id)) return colour.lerp(glaze, 0.2);
    return lit && !lit.has(id) ? colour.lerp(paper, 0.72) : colour;
  });
  const found = new THREE.BufferGeometry();
  for (const name of ['position', 'normal']) found.setAttribute(name, geometry.getAttribute(name));
  const paint = cornerColours(partOf, colours, glaze);
  if (mixed)
    runOver(drawable, colours, paint, (part, other) =>
      radiusBetween(known, ids[part] as string, ids[other] as string),
    );
  found.setAttribute('color', new THREE.BufferAttribute(paint, 3));

  const left = ids.map((id) => without.has(id) || isGlass(known, id));
  const parts = data.partOf ?? new Uint32Array(data.triangles.length / 3);
  const whole = !left.some(Boolean);
  const faces = whole ? parts : parts.filter((p) => !left[p]);
  const index = geometry.index as THREE.BufferAttribute;
  found.setIndex(
    whole ? index : new THREE.BufferAttribute(staying(index.array as Uint32Array, partOf, left), 1),
  );
  found.userData = { parts: faces, left, base: whole ? geometry : undefined } satisfies Shown;
  found.boundingSphere = geometry.boundingSphere;
  return found;
}
