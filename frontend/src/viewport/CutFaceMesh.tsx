/** The cut face of a section: exactly what the plane cuts, hatched in the glaze of each part, its outline in ink. */
import { Line } from '@react-three/drei';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { ResultView } from '../api/client';
import { useEditor } from '../controls/editor';
import type { Known } from '../controls/tree';
import { INK } from '../theme/ink';
import { type Cut, useCutFace } from './cutFace';
import { passed } from './passed';

type Props = { piece: string; result: ResultView; known: Map<string, Known> };

export function CutFaceMesh({ piece, result, known }: Props) {
  const section = useEditor((s) => (s.look === 'section' ? s.section : null));
  const cut = useCutFace(piece, result.triangles ? result.key : null, section);
  if (!cut || cut.key !== result.key || cut.face.triangles.length === 0) return null;
  return <Face cut={cut} parts={result.parts} known={known} />;
}

function Face({ cut, parts, known }: { cut: Cut; parts: string[]; known: Map<string, Known> }) {
  const { face } = cut;
  const geometry = useMemo(() => {
    const found = new THREE.BufferGeometry();
    found.setAttribute('position', new THREE.Float32BufferAttribute(face.triangles, 3));
    found.computeVertexNormals();
    return found;
  }, [face]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  const hatching = useMemo(() => {
    const ink = new THREE.Color(INK.ink);
    const glazes = parts.map((id) => onPaper(new THREE.Color(known.get(id)?.colour ?? INK.clay), ink));
    const colours = face.hatched.flatMap((part) => {
      const glaze = glazes[part] ?? ink;
      return [glaze, glaze];
    });
    return { points: triples(face.hatching), colours };
  }, [face, parts, known]);
  const outline = useMemo(() => triples(face.outline), [face]);
  return (
    <group>
      <mesh geometry={geometry} raycast={passed} receiveShadow>
        <meshBasicMaterial
          color={INK.paper}
          side={THREE.DoubleSide}
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
        />
      </mesh>
      {hatching.points.length > 0 && (
        <Line
          points={hatching.points}
          vertexColors={hatching.colours}
          segments
          lineWidth={1.6}
          raycast={passed}
        />
      )}
      <Line points={outline} segments color={INK.ink} lineWidth={1.2} raycast={passed} />
    </group>
  );
}

/** A glaze as lines of it can be told from paper: the lighter, the more ink is in them. */
function onPaper(glaze: THREE.Color, ink: THREE.Color): THREE.Color {
  const { l } = glaze.getHSL({ h: 0, s: 0, l: 0 });
  return glaze.lerp(ink, 0.45 * l ** 2);
}

const triples = (flat: number[]): [number, number, number][] =>
  Array.from({ length: flat.length / 3 }, (_, i) => flat.slice(3 * i, 3 * i + 3) as [number, number, number]);
