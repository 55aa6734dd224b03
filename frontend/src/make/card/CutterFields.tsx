/** Cutting as single commands: a cutter of this, its inside cut out, room for it in another part; and baking. */
import { useState } from 'react';
import type { Part } from '../../api/client';
import { usePreferences } from '../../api/preferences';
import { ChoiceField, SIDE_WORDS } from '../../controls/fields/ChoiceField';
import { NumberField } from '../../controls/fields/NumberField';
import type { Actions, Side } from '../actions';

/** For one part. */
export function CutterFields({ part, isBody, actions }: { part: Part; isBody: boolean; actions: Actions }) {
  const [wall, setWall] = useState(2);
  const [side, setSide] = useState<Side>('z-');
  return (
    <div className="section">
      <h3>Cut</h3>
      <div className="fields">
        <NumberField label="Wall left" value={wall} least={0.1} onApply={setWall} />
        <ChoiceField
          label="Open at"
          value={side}
          options={Object.entries(SIDE_WORDS).map(([value, word]) => ({ value, word }))}
          onApply={(v) => setSide(v as Side)}
        />
      </div>
      <div className="buttons mt-2">
        <button
          type="button"
          className="plain small"
          disabled={part.locked}
          title="the same shape, thinner, cuts out of it from one side: a cup, a sleeve, a hat. The cutter stays a part."
          onClick={() => void actions.cutInside(wall, side)}
        >
          Cut its inside out
        </button>
        {!isBody && part.op !== 'difference' && (
          <button
            type="button"
            className="plain small"
            disabled={part.locked}
            title="it cuts what stands before it in the recipe"
            onClick={actions.makeCutter}
          >
            Make it a cutter
          </button>
        )}
        {!part.mesh && (
          <button
            type="button"
            className="plain small"
            disabled={part.locked}
            title="its parameters are given up for the mesh that they make; undo brings them back"
            onClick={() => void actions.bake()}
          >
            Bake
          </button>
        )}
      </div>
    </div>
  );
}

/** For a body and a tool. */
export function RoomFields({
  names,
  locked,
  actions,
}: {
  names: string[];
  locked: boolean;
  actions: Actions;
}) {
  const { sink_mm } = usePreferences();
  const [room, setRoom] = useState(Math.min(0.3, sink_mm));
  return (
    <div className="section">
      <h3>Cut with a copy</h3>
      <p className="quiet mb-1">
        {names[1]} stays, and leaves room for itself in {names[0]}.
      </p>
      <div className="fields">
        <NumberField
          label="Room"
          title="how much larger the cut is, all round; plugs want 0.2 to 0.3 mm"
          value={room}
          least={0}
          most={100}
          onApply={setRoom}
        />
        <button
          type="button"
          className="plain small"
          disabled={locked}
          onClick={() => void actions.cutWithCopy(room)}
        >
          Cut with room
        </button>
      </div>
    </div>
  );
}
