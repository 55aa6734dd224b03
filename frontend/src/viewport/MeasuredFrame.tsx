/** The measured frame of a chosen part: its box in its own directions, with wide, deep and high, which can be typed. */
import { Html, Line } from '@react-three/drei';
import { useMemo } from 'react';
import * as THREE from 'three';
import type { PartView } from '../api/client';
import type { Vector } from '../controls/editor';
import { useTyped } from '../controls/fields/useTyped';
import { short } from '../controls/format';
import { INK } from '../theme/ink';
import { matrixOf } from './meshes';

const LEAST_MM = 0.001;

type Props = {
  view: PartView;
  labels: boolean;
  carried?: THREE.Matrix4;
  onResize?: (size: Vector) => void;
};

export function MeasuredFrame({ view, labels, carried, onResize }: Props) {
  const frame = useMemo(() => frameOf(view, carried), [view, carried]);
  if (!frame) return null;
  return (
    <group>
      <Line
        points={frame.edges}
        segments
        color={INK.chosen}
        lineWidth={1.5}
        renderOrder={5}
        raycast={() => null}
      />
      {labels &&
        frame.labels.map(({ at, value, name }, axis) => (
          <Html key={name} position={at} center zIndexRange={[9, 9]}>
            <Measure
              name={name}
              value={value}
              onApply={
                onResize && !carried
                  ? (wanted) => onResize(view.size?.map((s, i) => (i === axis ? wanted : s)) as Vector)
                  : undefined
              }
            />
          </Html>
        ))}
    </group>
  );
}

/** A number in the view: a click lets it be typed, Enter applies, Esc restores. */
function Measure({
  name,
  value,
  onApply,
}: {
  name: string;
  value: number;
  onApply?: (value: number) => void;
}) {
  const { draft, wrong, begin, input } = useTyped({
    value,
    shown: short(value),
    refusal: (v) => (v < LEAST_MM ? `at least ${LEAST_MM}` : null),
    onApply: (v) => onApply?.(v),
  });
  if (draft === null || !onApply) {
    return (
      <button
        type="button"
        tabIndex={-1}
        className="measure"
        title={onApply ? `${name}, mm: click to type` : `${name}, mm`}
        aria-label={`${name} in the view`}
        onClick={() => onApply && begin()}
      >
        {short(value, 2)}
      </button>
    );
  }
  return (
    <input
      className="measure typing"
      aria-label={`${name} in the view`}
      title={wrong ?? undefined}
      ref={(box) => box?.focus()}
      {...input}
    />
  );
}

function frameOf(view: PartView, carried?: THREE.Matrix4) {
  const matrix = view.matrices[0];
  if (!view.own || !view.size || !matrix) return null;
  const place = matrixOf(matrix);
  if (carried) place.premultiply(carried);
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
  // While it is dragged the frame's own edges say how long it is now.
  const length = (p: THREE.Vector3, q: THREE.Vector3, whole: number) => (carried ? p.distanceTo(q) : whole);
  const side = (p: THREE.Vector3, q: THREE.Vector3, whole: number, name: string) => ({
    at: between(p, q),
    value: length(p, q, whole),
    name,
  });
  const [wide, deep, tall] = view.size;
  return {
    edges,
    labels: [
      side(at(0, 0, 0), at(1, 0, 0), wide, 'Wide'),
      side(at(1, 0, 0), at(1, 1, 0), deep, 'Deep'),
      side(at(0, 0, 0), at(0, 0, 1), tall, 'High'),
    ],
  };
}
