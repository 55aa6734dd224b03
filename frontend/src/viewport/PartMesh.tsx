/** One part by itself, with all its copies: whole, or as the ghost of a cutter, a kept shape or a reference. */
import { Line } from '@react-three/drei';
import { useMemo, useRef } from 'react';
import * as THREE from 'three';
import type { PartView } from '../api/client';
import { useEditor } from '../controls/editor';
import { INK } from '../theme/ink';
import { Copies } from './Copies';
import { copiesCarried } from './carry';
import { type Drawable, matrixOf } from './meshes';
import { passed } from './passed';
import type { Pickable } from './ResultMesh';
import { useCoarser } from './useCoarser';
import { useMesh } from './useMesh';
import { useShadows } from './useShadows';

export type Manner = 'whole' | 'cut' | 'keep' | 'reference' | 'outline';

type Props = {
  view: PartView;
  colour: string;
  opacity?: number;
  manner: Manner;
  chosen: boolean;
  /** How the part is carried just now, on the wheel. */
  carried?: THREE.Matrix4;
  dim?: boolean;
  pickable?: boolean;
};

const tintOf = (manner: Exclude<Manner, 'whole' | 'outline'>): string =>
  ({ cut: INK.cut, keep: INK.keep, reference: INK.reference })[manner];
const MOST_OUTLINED = 40;

export function PartMesh({
  view,
  colour,
  opacity = 1,
  manner,
  chosen,
  carried,
  dim = false,
  pickable = true,
}: Props) {
  const shown = useMesh(view.key);
  const matrices = useMemo(
    () => copiesCarried(view.matrices.map(matrixOf), carried),
    [view.matrices, carried],
  );
  const glazed = useEditor((s) => s.surface === 'glazed');
  const drawn = useRef<THREE.Group>(null);
  useCoarser(drawn, { mesh: shown?.mesh, copies: matrices.length });
  useShadows(shown, matrices, manner);
  const userData = useMemo<Pickable | undefined>(
    () => (pickable ? { partAt: () => view.id } : undefined),
    [pickable, view.id],
  );
  const ghost = manner !== 'whole';
  const own = glazed ? colour : INK.plain;
  const tint = manner === 'whole' || manner === 'outline' ? own : tintOf(manner as 'cut');
  const shaded = useMemo(() => shade(tint, chosen && !ghost, dim), [tint, chosen, ghost, dim]);
  if (!shown) return null;
  return (
    <group ref={drawn}>
      {manner !== 'outline' && (
        <Copies
          geometry={shown.mesh.geometry}
          matrices={matrices}
          castShadow={!ghost}
          receiveShadow={!ghost}
          userData={userData}
          renderOrder={ghost ? 3 : 0}
        >
          <meshStandardMaterial
            key={`${manner} ${opacity < 1}`}
            color={shaded}
            roughness={0.72}
            transparent={ghost || opacity < 1}
            opacity={ghost ? (chosen ? 0.3 : 0.16) : opacity}
            depthWrite={!ghost && opacity === 1}
            // A kept part's faces lie in the skin's own: a little further back, they do not flicker through it.
            polygonOffset={ghost}
            polygonOffsetFactor={1}
            polygonOffsetUnits={1}
          />
        </Copies>
      )}
      {ghost &&
        matrices.slice(0, MOST_OUTLINED).map((matrix, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: copies have no other name
          <Outline key={i} mesh={shown.mesh} view={view} matrix={matrix} manner={manner} chosen={chosen} />
        ))}
    </group>
  );
}

function shade(tint: string, chosen: boolean, dim: boolean): THREE.Color {
  const colour = new THREE.Color(tint);
  if (chosen) return colour.lerp(new THREE.Color(INK.chosen), 0.2);
  return dim ? colour.lerp(new THREE.Color(INK.paper), 0.72) : colour;
}

type OutlineProps = {
  mesh: Drawable;
  view: PartView;
  matrix: THREE.Matrix4;
  manner: Manner;
  chosen: boolean;
};

/** The sharp edges in dotted ink; of something smooth, its three middle sections. */
function Outline({ mesh, view, matrix, manner, chosen }: OutlineProps) {
  const points = useMemo(() => {
    const edges = new THREE.EdgesGeometry(mesh.geometry, 24);
    const sharp = edges.getAttribute('position').count
      ? [...(edges.getAttribute('position').array as Float32Array)]
      : [];
    edges.dispose();
    return sharp.length ? toPoints(sharp) : middleSections(view);
  }, [mesh, view]);
  const colour = manner === 'outline' ? INK.ink : tintOf(manner as 'cut');
  return (
    <group matrix={matrix} matrixAutoUpdate={false}>
      <Line
        points={points}
        segments
        color={colour}
        lineWidth={chosen ? 2 : manner === 'outline' ? 0.7 : 1.4}
        dashed={manner !== 'outline'}
        dashSize={dash(matrix)}
        gapSize={dash(matrix)}
        transparent
        opacity={manner === 'outline' ? 0.4 : 0.95}
        renderOrder={4}
        raycast={passed}
      />
    </group>
  );
}

/** Dots of about a millimetre, whatever the part's scale. */
const dash = (matrix: THREE.Matrix4): number => 1.1 / Math.max(1e-3, matrix.getMaxScaleOnAxis());

function toPoints(flat: number[]): THREE.Vector3[] {
  const found: THREE.Vector3[] = [];
  for (let i = 0; i < flat.length; i += 3) found.push(new THREE.Vector3(flat[i], flat[i + 1], flat[i + 2]));
  return found;
}

function middleSections(view: PartView): THREE.Vector3[] {
  if (!view.own) return [new THREE.Vector3(), new THREE.Vector3()];
  const low = new THREE.Vector3(...view.own[0]);
  const high = new THREE.Vector3(...view.own[1]);
  const middle = low.clone().add(high).multiplyScalar(0.5);
  const half = high.clone().sub(low).multiplyScalar(0.5);
  const found: THREE.Vector3[] = [];
  const axes: ['x' | 'y' | 'z', 'x' | 'y' | 'z'][] = [
    ['x', 'y'],
    ['y', 'z'],
    ['x', 'z'],
  ];
  for (const [a, b] of axes) {
    for (let i = 0; i < 48; i++) {
      for (const t of [i, i + 1]) {
        const point = middle.clone();
        point[a] += half[a] * Math.cos((t * Math.PI) / 24);
        point[b] += half[b] * Math.sin((t * Math.PI) / 24);
        found.push(point);
      }
    }
  }
  return found;
}
