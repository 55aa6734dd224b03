/** The frames of chosen parts: each one's box in its own directions; of one alone with wide, deep and high, to be typed. */
import { Html, Line } from '@react-three/drei';
import { useMemo } from 'react';
import * as THREE from 'three';
import type { PartView } from '../api/client';
import type { Vector } from '../controls/editor';
import { useTyped } from '../controls/fields/useTyped';
import { short } from '../controls/format';
import { INK } from '../theme/ink';
import { matrixOf } from './meshes';
import { passed } from './passed';

const LEAST_MM = 0.001;

/** Parts that have a frame each; more have one around all of them. */
const MOST_FRAMED = 100;

type Props = {
  views: PartView[];
  carried?: ReadonlyMap<string, THREE.Matrix4>;
  onResize?: (size: Vector) => void;
};

export function MeasuredFrame({ views, carried, onResize }: Props) {
  const frames = useMemo(
    () =>
      views.length > MOST_FRAMED
        ? [frameAround(views, carried)]
        : views.flatMap((view) => frameOf(view, carried?.get(view.id)) ?? []),
    [views, carried],
  );
  const edges = useMemo(() => frames.flatMap((frame) => frame.edges), [frames]);
  const [alone] = frames;
  if (!alone) return null;
  return (
    <group>
      <Line
        // A line of another length is another buffer.
        key={edges.length}
        points={edges}
        segments
        color={INK.chosen}
        lineWidth={1.5}
        renderOrder={5}
        raycast={passed}
      />
      {views.length === 1 &&
        alone.labels.map(({ at, value, name }, axis) => (
          <Html key={name} position={at.toArray()} center zIndexRange={[9, 9]}>
            <Measure
              name={name}
              value={value}
              onApply={
                onResize && !carried
                  ? (wanted) => onResize(alone.size.map((s, i) => (i === axis ? wanted : s)) as Vector)
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
  const at = (i: number, j: number, k: number) => cornerOf(low, high, i, j, k).applyMatrix4(place);
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
    edges: edgesOf(at),
    size: view.size,
    labels: [
      side(at(0, 0, 0), at(1, 0, 0), wide, 'Wide'),
      side(at(1, 0, 0), at(1, 1, 0), deep, 'Deep'),
      side(at(0, 0, 0), at(0, 0, 1), tall, 'High'),
    ],
  };
}

/** One frame around many parts, along the axes of the wheel. */
function frameAround(views: PartView[], carried?: ReadonlyMap<string, THREE.Matrix4>) {
  const around = new THREE.Box3();
  const one = new THREE.Box3();
  for (const { id, box } of views) {
    if (!box) continue;
    one.set(new THREE.Vector3(...box[0]), new THREE.Vector3(...box[1]));
    const matrix = carried?.get(id);
    around.union(matrix ? one.applyMatrix4(matrix) : one);
  }
  const [low, high] = [around.min.toArray(), around.max.toArray()];
  const size = around.getSize(new THREE.Vector3()).toArray();
  return { edges: edgesOf((i, j, k) => cornerOf(low, high, i, j, k)), size, labels: [] };
}

const cornerOf = (low: number[], high: number[], i: number, j: number, k: number) =>
  new THREE.Vector3(...[i, j, k].map((end, axis) => (end ? high : low)[axis] as number));

/** The twelve edges of a box, two ends each. */
function edgesOf(at: (i: number, j: number, k: number) => THREE.Vector3): THREE.Vector3[] {
  return [0, 1].flatMap((a) =>
    [0, 1].flatMap((b) => [at(0, a, b), at(1, a, b), at(a, 0, b), at(a, 1, b), at(a, b, 0), at(a, b, 1)]),
  );
}
