/** What the chosen parts are held by: leaves to move, arcs to turn, squares to stretch, and the measured frame. */

import { useEffect } from 'react';
import * as THREE from 'three';
import { useShallow } from 'zustand/react/shallow';
import { useEditor } from '../../controls/editor';
import { outermost } from '../carry';
import type { DragContext } from '../dragContext';
import { MeasuredFrame } from '../MeasuredFrame';
import { boxOf } from '../snapping';
import { MoveGrips } from './MoveGrips';
import { StretchGrips } from './StretchGrips';
import { TurnGrips } from './TurnGrips';

type Props = { context: DragContext; onResize: (id: string, size: [number, number, number]) => void };

export function Grips({ context, onResize }: Props) {
  const { chosen, drag, tool } = useEditor(
    useShallow((s) => ({ chosen: s.chosen, drag: s.drag, tool: s.tool })),
  );
  const { scene, known, view } = context;
  const there = chosen.filter((id) => known.has(id));
  const ids = outermost(known, there);
  const box = boxOf(scene, ids);

  useEffect(() => {
    // Claimed before the camera turns.
    const hold = (e: PointerEvent) => {
      if ((e.target as HTMLElement).closest?.('.grip, .measure')) view.rig?.hold(true);
    };
    const free = () => view.rig?.hold(false);
    window.addEventListener('pointerdown', hold, true);
    window.addEventListener('pointerup', free);
    return () => {
      window.removeEventListener('pointerdown', hold, true);
      window.removeEventListener('pointerup', free);
    };
  }, [view]);

  const views = scene.parts.filter((v) => there.includes(v.id));
  const alone = ids.length === 1 ? views.find((v) => v.id === ids[0]) : undefined;
  const locked = ids.some((id) => known.get(id)?.part.locked);
  const row = alone?.matrices[0];
  const centre = row ? new THREE.Vector3(row[3], row[7], row[11]) : box.getCenter(new THREE.Vector3());
  const held = tool === 'hand' && ids.length > 0 && !locked && !box.isEmpty();
  return (
    <>
      {views.map((v) => (
        <MeasuredFrame
          key={v.id}
          view={v}
          carried={drag?.carried.get(v.id)}
          onResize={there.length === 1 && !locked ? (size) => onResize(v.id, size) : undefined}
          labels={there.length === 1}
        />
      ))}
      {held && (
        <group visible={!drag}>
          <MoveGrips context={context} ids={ids} box={box} />
          <TurnGrips context={context} ids={ids} box={box} centre={centre} />
          {alone && <StretchGrips context={context} view={alone} />}
        </group>
      )}
    </>
  );
}
