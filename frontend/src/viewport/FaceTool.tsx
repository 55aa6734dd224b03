/** Pointing at a face: to seat what is chosen on it, seen before it is done, or to make it the floor for a while. */

import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import * as THREE from 'three';
import { type Adjust, said } from '../api/client';
import { useWork, type Work } from '../api/work';
import { useEditor, type Vector } from '../controls/editor';
import type { Known } from '../controls/tree';
import { INK } from '../theme/ink';
import { firstHit, pointerRay, rayNumbers } from './pointer';
import { endPreview, showPreview } from './preview';
import { usePointer } from './usePointer';

/** sink: how deep a part is seated unless the maker says otherwise, mm. */
type Props = { work: Work; known: Map<string, Known>; sink: number; onSeat: (adjust: Adjust) => void };

export function FaceTool({ work, known, sink, onSeat }: Props) {
  const { gl, get } = useThree();
  const tool = useEditor((s) => s.tool);
  const active = tool === 'seat' || tool === 'face';
  const asking = useRef(false);
  const waiting = useRef<Adjust | null>(null);

  const seatAt = (ray: THREE.Raycaster): Adjust => {
    const { chosen, seat } = useEditor.getState();
    return { kind: 'seat', ids: chosen, ...rayNumbers(ray), ...seat, depth: seat.depth ?? sink };
  };
  const preview = async (adjust: Adjust) => {
    if (asking.current) {
      waiting.current = adjust;
      return;
    }
    asking.current = true;
    const said = await showPreview(work, adjust, 'click to seat it here');
    asking.current = false;
    const next = waiting.current;
    waiting.current = null;
    if (useEditor.getState().tool !== 'seat') endPreview();
    else if (said && next) void preview(next);
  };
  const act = async (ray: THREE.Raycaster) => {
    if (tool === 'seat') {
      const adjust = seatAt(ray);
      useEditor.getState().set({ tool: 'hand' });
      return onSeat(adjust);
    }
    try {
      const { eye, direction } = rayNumbers(ray);
      const face = await work.face(eye, direction);
      const hit = firstHit(ray, get().scene);
      const name = (hit && known.get(hit.id)?.part.name) ?? 'the piece';
      const point = face.middle ?? face.point;
      useEditor.getState().set({ tool: 'hand', floor: { point, normal: face.normal, name } });
    } catch (error) {
      useWork.setState({ refusal: said(error) });
    }
  };

  usePointer<true>(active, {
    down: () => true,
    over: ({ ray }) => tool === 'seat' && void preview(seatAt(ray)),
    click: (_, { ray }) => void act(ray),
  });
  useEffect(() => (active ? endPreview : undefined), [active]);

  // By keyboard: what the middle of the view shows.
  const latest = useRef(act);
  latest.current = act;
  useEffect(() => {
    if (!active) return;
    const key = (e: KeyboardEvent) => {
      if (e.key !== 'Enter' || (e.target as HTMLElement).closest('input, button')) return;
      e.stopImmediatePropagation();
      const box = gl.domElement.getBoundingClientRect();
      const [x, y] = [box.left + box.width / 2, box.top + box.height / 2];
      void latest.current(pointerRay(get().camera, gl.domElement, x, y));
    };
    window.addEventListener('keydown', key, true);
    return () => window.removeEventListener('keydown', key, true);
  }, [active, gl, get]);
  return null;
}

/** The disc of the face that is the floor for now, with a ring every 10 mm. */
export function FloorDisc() {
  const floor = useEditor((s) => s.floor);
  if (!floor) return null;
  const turn = new THREE.Quaternion().setFromUnitVectors(
    new THREE.Vector3(0, 0, 1),
    new THREE.Vector3(...(floor.normal as Vector)),
  );
  const lift = new THREE.Vector3(...floor.normal).multiplyScalar(0.05).add(new THREE.Vector3(...floor.point));
  return (
    <group position={lift} quaternion={turn}>
      {[10, 20, 30].map((r) => (
        <mesh key={r} raycast={() => null} renderOrder={5}>
          <ringGeometry args={[r - 0.18, r + 0.18, 96]} />
          <meshBasicMaterial color={INK.chosen} transparent opacity={0.7} side={THREE.DoubleSide} />
        </mesh>
      ))}
      <mesh raycast={() => null} renderOrder={4}>
        <circleGeometry args={[30, 96]} />
        <meshBasicMaterial
          color={INK.chosen}
          transparent
          opacity={0.1}
          side={THREE.DoubleSide}
          depthWrite={false}
        />
      </mesh>
    </group>
  );
}
