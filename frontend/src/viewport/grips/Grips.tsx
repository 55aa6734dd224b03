/** What the chosen parts are held by: leaves to move, arcs to turn, squares to stretch, and the measured frame. */

import { useEffect, useMemo } from 'react';
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
  const { chosen, drag, tool, look } = useEditor(
    useShallow((s) => ({ chosen: s.chosen, drag: s.drag, tool: s.tool, look: s.look })),
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

  const views = useMemo(() => {
    const held = new Set(chosen);
    return scene.parts.filter((v) => held.has(v.id));
  }, [scene, chosen]);
  const only = views.length === 1 ? views[0] : undefined;
  const alone = ids.length === 1 ? views.find((v) => v.id === ids[0]) : undefined;
  const locked = ids.some((id) => known.get(id)?.part.locked);
  const row = alone?.matrices[0];
  const centre = row ? new THREE.Vector3(row[3], row[7], row[11]) : box.getCenter(new THREE.Vector3());
  const held = tool === 'hand' && ids.length > 0 && !locked && !box.isEmpty();
  // What is pulled apart is looked at: nothing stands where it could be held.
  if (look === 'apart') return null;
  return (
    <>
      <MeasuredFrame
        views={views}
        carried={drag?.carried}
        onResize={only && !locked ? (size) => onResize(only.id, size) : undefined}
      />
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
