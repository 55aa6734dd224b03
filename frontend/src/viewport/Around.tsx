/** Picking by drawing around parts: a box or a lasso; those touched, or only those wholly inside. */

import { useRef, useState } from 'react';
import * as THREE from 'three';
import { useShallow } from 'zustand/react/shallow';
import type { Scene } from '../api/client';
import { useEditor } from '../controls/editor';
import { type Known, parentsOf } from '../controls/tree';
import { loadMesh, matrixOf } from './meshes';
import type { ViewHandle } from './View';

type Spot = { x: number; y: number };
/** lasso: a free line; else a box. */
type Props = { scene: Scene; known: Map<string, Known>; view: ViewHandle; lasso: boolean };

/** Vertices of one part that are looked at; of finer meshes every so-manieth. */
const MOST_VERTICES = 3000;

export function Around({ scene, known, view, lasso }: Props) {
  const { enclosed, set } = useEditor(useShallow((s) => ({ enclosed: s.enclosed, set: s.set })));
  const [line, setLine] = useState<Spot[]>([]);
  const drawn = useRef<Spot[]>([]);

  const spot = (e: React.PointerEvent): Spot => {
    const box = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  const draw = (spots: Spot[]) => {
    drawn.current = spots;
    setLine(spots);
  };
  const down = (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    draw([spot(e)]);
  };
  const move = (e: React.PointerEvent) => {
    const [first] = drawn.current;
    if (!first) return;
    const now = spot(e);
    draw(lasso ? [...drawn.current, now] : [first, { x: now.x, y: first.y }, now, { x: first.x, y: now.y }]);
  };
  const up = async (e: React.PointerEvent) => {
    const region = drawn.current;
    draw([]);
    const more = e.shiftKey || e.ctrlKey;
    if (region.length < 3 || !view.camera || !view.canvas) return;
    const ids = await partsIn(region, enclosed, scene, known, view.camera, view.canvas);
    const { chosen } = useEditor.getState();
    set({ chosen: more ? [...chosen, ...ids.filter((id) => !chosen.includes(id))] : ids, tool: 'hand' });
  };
  return (
    <div
      className="around"
      data-testid="around"
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={(e) => void up(e)}
      onPointerCancel={() => draw([])}
    >
      <svg aria-hidden="true">
        {line.length > 1 && <polygon points={line.map(({ x, y }) => `${x},${y}`).join(' ')} />}
      </svg>
    </div>
  );
}

/** The parts, at the level that a click would pick, that lie in a region of the page. */
async function partsIn(
  region: Spot[],
  enclosed: boolean,
  scene: Scene,
  known: Map<string, Known>,
  camera: THREE.Camera,
  canvas: HTMLCanvasElement,
): Promise<string[]> {
  const { inside, cutters, solo } = useEditor.getState();
  const touched = new Map<string, { some: boolean; all: boolean }>();
  const toPage = (p: THREE.Vector3): Spot => {
    p.project(camera);
    return { x: ((p.x + 1) / 2) * canvas.clientWidth, y: ((1 - p.y) / 2) * canvas.clientHeight };
  };
  for (const view of scene.parts) {
    const part = known.get(view.id);
    if (!view.key || !part || part.hidden || (part.role !== 'union' && !cutters)) continue;
    const line = [...parentsOf(known, view.id), view.id];
    const at = inside ? line.indexOf(inside) : -1;
    if ((inside && at < 0) || (solo && !line.some((id) => solo.includes(id)))) continue;
    const id = line[Math.min(at + 1, line.length - 1)] as string;
    const { vertices } = (await loadMesh(view.key)).data;
    const step = 3 * Math.max(1, Math.floor(vertices.length / 3 / MOST_VERTICES));
    const found = touched.get(id) ?? { some: false, all: true };
    for (const rows of view.matrices) {
      const matrix = matrixOf(rows);
      for (let i = 0; i + 2 < vertices.length; i += step) {
        const [x, y, z] = vertices.subarray(i, i + 3) as unknown as [number, number, number];
        const within = holds(region, toPage(new THREE.Vector3(x, y, z).applyMatrix4(matrix)));
        found.some ||= within;
        found.all &&= within;
      }
    }
    touched.set(id, found);
  }
  return [...touched].filter(([, f]) => (enclosed ? f.all : f.some)).map(([id]) => id);
}

/** Whether a polygon holds a point: a ray from it crosses the line an odd number of times. */
function holds(region: Spot[], { x, y }: Spot): boolean {
  let odd = false;
  region.forEach((a, i) => {
    const b = region[(i + 1) % region.length] as Spot;
    if (a.y > y !== b.y > y && x < a.x + ((y - a.y) / (b.y - a.y)) * (b.x - a.x)) odd = !odd;
  });
  return odd;
}
