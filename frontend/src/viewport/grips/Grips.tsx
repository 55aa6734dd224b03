/** What the chosen parts are held by: leaves to move, arcs to turn, squares to stretch, and the measured frame. */
import { useEffect } from 'react';
import * as THREE from 'three';
import { useEditor } from '../../controls/editor';
import { outermost } from '../carry';
import { boxOf } from '../catches';
import { MeasuredFrame } from '../MeasuredFrame';
import type { Reins } from '../reins';
import { MoveGrips } from './MoveGrips';
import { StretchGrips } from './StretchGrips';
import { TurnGrips } from './TurnGrips';

type Props = { reins: Reins; onResize: (id: string, size: [number, number, number]) => void };

export function Grips({ reins, onResize }: Props) {
  const { chosen, drag, tool } = useEditor();
  const { scene, known, view } = reins;
  const there = chosen.filter((id) => known.has(id));
  const ids = outermost(known, there);
  const box = boxOf(scene, ids);

  useEffect(() => {
    // Claimed before the eye turns.
    const hold = (e: PointerEvent) => {
      if ((e.target as HTMLElement).closest?.('.grip, .measure')) view.eye?.hold(true);
    };
    const free = () => view.eye?.hold(false);
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
          <MoveGrips reins={reins} ids={ids} box={box} />
          <TurnGrips reins={reins} ids={ids} box={box} centre={centre} />
          {alone && <StretchGrips reins={reins} view={alone} />}
        </group>
      )}
    </>
  );
}
