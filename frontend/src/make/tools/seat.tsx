/** Seat: what is chosen is put onto the face of another part that is pointed at, seen before it is done. */
import { useEffect, useMemo } from 'react';
import type * as THREE from 'three';
import type { Adjust } from '../../api/client';
import { useEditor } from '../../controls/editor';
import { NumberField } from '../../controls/fields/NumberField';
import { latest } from '../../controls/latest';
import { rayNumbers } from '../../viewport/pointer';
import { endPreview, showPreview } from '../../viewport/preview';
import { useFacePointer } from '../../viewport/useFacePointer';
import { Leave } from './Leave';
import type { ToolProps, ViewTool } from './tool';

export const SEAT: ViewTool = {
  name: 'seat',
  chosen: 1,
  InScene: Seat,
  Note: SeatNote,
};

const inHand = () => useEditor.getState().tool === SEAT.name;

function Seat({ open, actions, preferences }: ToolProps) {
  const seatAt = (ray: THREE.Raycaster): Adjust => {
    const { chosen, seat } = useEditor.getState();
    return {
      kind: 'seat',
      ids: chosen,
      ...rayNumbers(ray),
      ...seat,
      depth: seat.depth ?? preferences.sink_mm,
    };
  };
  const preview = useMemo(
    () =>
      latest(
        async (adjust: Adjust) => {
          if (inHand()) await showPreview(open.work, adjust, 'click to seat it here');
        },
        () => {
          if (!inHand()) endPreview();
        },
      ),
    [open.work],
  );
  useFacePointer({
    over: (ray) => preview(seatAt(ray)),
    pick: (ray) => {
      useEditor.getState().set({ tool: 'hand' });
      void actions.adjust(seatAt(ray));
    },
  });
  useEffect(() => endPreview, []);
  return null;
}

function SeatNote({ preferences }: ToolProps) {
  const seat = useEditor((s) => s.seat);
  const set = useEditor((s) => s.set);
  return (
    <section className="panel seat" aria-label="Seat">
      <span>
        <b>Seat</b> on the face you click
      </span>
      <fieldset className="switch" aria-label="Where on the face">
        {(['middle', 'point'] as const).map((where) => (
          <button
            key={where}
            type="button"
            aria-pressed={seat.where === where}
            onClick={() => set({ seat: { ...seat, where } })}
          >
            {where === 'middle' ? 'its middle' : 'where pointed'}
          </button>
        ))}
      </fieldset>
      <label>
        <input
          type="checkbox"
          checked={seat.turned}
          onChange={(e) => set({ seat: { ...seat, turned: e.currentTarget.checked } })}
        />{' '}
        turn with it
      </label>
      <NumberField
        label="sunk, mm"
        value={seat.depth ?? preferences.sink_mm}
        least={0}
        onApply={(depth) => set({ seat: { ...seat, depth } })}
      />
      <Leave />
    </section>
  );
}
