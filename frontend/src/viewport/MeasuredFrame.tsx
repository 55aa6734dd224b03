/** The measured frame of a chosen part: its box in its own directions, with wide, deep and high. */
import { Html, Line } from '@react-three/drei';
import { useMemo } from 'react';
import * as THREE from 'three';
import type { PartView } from '../api/client';
import { short } from '../controls/format';
import { INK } from '../theme/glazes';
import { matrixOf } from './meshes';

type Props = { view: PartView; labels: boolean; by?: [number, number, number] };

export function MeasuredFrame({ view, labels, by = [0, 0, 0] }: Props) {
  const frame = useMemo(() => frameOf(view), [view]);
  if (!frame) return null;
  return (
    <group position={by}>
      <Line
        points={frame.edges}
        segments
        color={INK.chosen}
        lineWidth={1.5}
        renderOrder={5}
        raycast={() => null}
      />
      {labels &&
        frame.labels.map(({ at, text, name }) => (
          <Html key={name} position={at} center zIndexRange={[5, 0]}>
            <div className="measure" title={name}>
              {text}
            </div>
          </Html>
        ))}
    </group>
  );
}

function frameOf(view: PartView) {
  const matrix = view.matrices[0];
  if (!view.own || !view.size || !matrix) return null;
  const place = matrixOf(matrix);
  const [low, high] = view.own;
  const at = (i: number, j: number, k: number) =>
    new THREE.Vector3(i ? high[0] : low[0], j ? high[1] : low[1], k ? high[2] : low[2]).applyMatrix4(place);
  const edges: THREE.Vector3[] = [];
  for (const a of [0, 1]) {
    for (const b of [0, 1]) {
      edges.push(at(0, a, b), at(1, a, b), at(a, 0, b), at(a, 1, b), at(a, b, 0), at(a, b, 1));
    }
  }
  const between = (p: THREE.Vector3, q: THREE.Vector3) => p.clone().add(q).multiplyScalar(0.5);
  const [wide, deep, tall] = view.size;
  return {
    edges,
    labels: [
      { at: between(at(0, 0, 0), at(1, 0, 0)), text: short(wide, 2), name: 'wide, mm' },
      { at: between(at(1, 0, 0), at(1, 1, 0)), text: short(deep, 2), name: 'deep, mm' },
      { at: between(at(1, 0, 0), at(1, 0, 1)), text: short(tall, 2), name: 'high, mm' },
    ],
  };
}
