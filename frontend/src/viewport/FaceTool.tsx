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

const SLACK_PX = 4;

/** sink: how deep a part is seated unless the maker says otherwise, mm. */
type Props = { work: Work; known: Map<string, Known>; sink: number; onSeat: (adjust: Adjust) => void };

export function FaceTool({ work, known, sink, onSeat }: Props) {
  const { gl, get } = useThree();
  const tool = useEditor((s) => s.tool);
  const latest = useRef({ work, known, sink, onSeat });
  latest.current = { work, known, sink, onSeat };

  useEffect(() => {
    if (tool !== 'seat' && tool !== 'face') return;
    const canvas = gl.domElement;
    let down: { x: number; y: number } | null = null;
    let asking = false;
    let waiting: Adjust | null = null;

    const middle = () => {
      const box = canvas.getBoundingClientRect();
      return { clientX: box.left + box.width / 2, clientY: box.top + box.height / 2 };
    };
    const rayAt = (p: { clientX: number; clientY: number }) =>
      pointerRay(get().camera, canvas, p.clientX, p.clientY);
    const seatAt = (p: { clientX: number; clientY: number }): Adjust => {
      const { chosen, seat } = useEditor.getState();
      return {
        kind: 'seat',
        ids: chosen,
        ...rayNumbers(rayAt(p)),
        ...seat,
        depth: seat.depth ?? latest.current.sink,
      };
    };

    const preview = async (adjust: Adjust) => {
      if (asking) {
        waiting = adjust;
        return;
      }
      asking = true;
      const said = await showPreview(latest.current.work, adjust, 'click to seat it here');
      asking = false;
      if (useEditor.getState().tool !== 'seat') endPreview();
      else if (said && waiting) void preview(waiting);
      waiting = null;
    };

    const act = async (p: { clientX: number; clientY: number }) => {
      if (tool === 'seat') {
        const adjust = seatAt(p);
        useEditor.getState().set({ tool: 'hand' });
        return latest.current.onSeat(adjust);
      }
      const ray = rayAt(p);
      try {
        const { eye, direction } = rayNumbers(ray);
        const face = await latest.current.work.face(eye, direction);
        const hit = firstHit(ray, get().scene);
        const name = (hit && latest.current.known.get(hit.id)?.part.name) ?? 'the piece';
        const point = face.middle ?? face.point;
        useEditor.getState().set({ tool: 'hand', floor: { point, normal: face.normal, name } });
      } catch (error) {
        useWork.setState({ refusal: said(error) });
      }
    };

    const press = (e: PointerEvent) => {
      down = e.button === 0 && e.target === canvas ? { x: e.clientX, y: e.clientY } : null;
    };
    const move = (e: PointerEvent) => {
      if (tool === 'seat' && !down && e.target === canvas) void preview(seatAt(e));
    };
    const up = (e: PointerEvent) => {
      const was = down;
      down = null;
      if (was && Math.hypot(e.clientX - was.x, e.clientY - was.y) < SLACK_PX) void act(e);
    };
    const key = (e: KeyboardEvent) => {
      if (e.key !== 'Enter' || (e.target as HTMLElement).closest('input, button')) return;
      e.stopImmediatePropagation();
      void act(middle());
    };
    window.addEventListener('pointerdown', press, true);
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', up);
    window.addEventListener('keydown', key, true);
    return () => {
      window.removeEventListener('pointerdown', press, true);
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', up);
      window.removeEventListener('keydown', key, true);
      endPreview();
    };
  }, [gl, get, tool]);
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
