/** What the tool in hand waits for, with its settings; and the face that is the floor for now. */
import { useShallow } from 'zustand/react/shallow';
import { usePreferences } from '../api/preferences';
import { useEditor } from '../controls/editor';
import { NumberField } from '../controls/fields/NumberField';
import type { Open } from '../controls/PieceFrame';

export function ToolNote({ open }: { open: Open }) {
  const preferences = usePreferences();
  const { tool, seat, enclosed, floor, inside, solo, set } = useEditor(
    useShallow((s) => ({
      tool: s.tool,
      seat: s.seat,
      enclosed: s.enclosed,
      floor: s.floor,
      inside: s.inside,
      solo: s.solo,
      set: s.set,
    })),
  );
  const leave = (
    <button type="button" className="plain small" onClick={() => set({ tool: 'hand' })}>
      Leave
    </button>
  );
  return (
    <>
      {tool === 'seat' && (
        <section className="panel seat" aria-label="Seat">
          <span>
            <b>Seat:</b> click a face of another part
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
          {leave}
        </section>
      )}
      {tool === 'face' && (
        <section className="panel" aria-label="Wheel on a face">
          <span>
            <b>Wheel on a face:</b> click the face that the wheel shall lie on for a while
          </span>
          {leave}
        </section>
      )}
      {(tool === 'box' || tool === 'lasso') && (
        <section className="panel" aria-label="Pick by drawing">
          <span>
            <b>Draw {tool === 'box' ? 'a box' : 'a line'}</b> around what you want to pick
          </span>
          <fieldset className="switch" aria-label="What is picked">
            {[false, true].map((whole) => (
              <button
                key={String(whole)}
                type="button"
                aria-pressed={enclosed === whole}
                onClick={() => set({ enclosed: whole })}
              >
                {whole ? 'wholly inside' : 'touched'}
              </button>
            ))}
          </fieldset>
          {leave}
        </section>
      )}
      {(floor || inside || solo) && tool === 'hand' && (
        <section className="panel chips" aria-label="Just now">
          {floor && (
            <button type="button" className="plain small" onClick={() => set({ floor: null })}>
              The wheel lies on a face of {floor.name} · back down (Shift+Q)
            </button>
          )}
          {inside && (
            <button
              type="button"
              className="plain small"
              onClick={() => set({ chosen: [inside], inside: null })}
            >
              Inside {open.known.get(inside)?.part.name ?? 'a group'} · step out (Esc)
            </button>
          )}
          {solo && (
            <button type="button" className="plain small" onClick={() => set({ solo: null })}>
              Solo · show all
            </button>
          )}
        </section>
      )}
    </>
  );
}
