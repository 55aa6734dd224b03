/** What can be done with several parts at once. */
import type { Open } from '../../controls/PieceFrame';
import type { Actions } from '../actions';
import { RoomFields } from './CutterFields';
import { Drawer } from './Drawer';
import { Glaze } from './Glaze';
import { LineUp } from './LineUp';
import { PlaceButtons } from './PlaceButtons';

const MOST_NAMED = 24;

export function Several({ open, ids, actions }: { open: Open; ids: string[]; actions: Actions }) {
  const locked = ids.some((id) => open.known.get(id)?.part.locked);
  return (
    <>
      <div className="pad">
        <h2>{ids.length} parts</h2>
        <div className="quiet">{someNames(ids.map((id) => open.known.get(id)?.part.name ?? ''))}</div>
        <p className="quiet mt-2 mb-0">
          The first one picked is the body. Choose in the bar below the view how the others join it.
        </p>
      </div>
      <div className="section">
        <h3>Place</h3>
        <div className="buttons">
          <button
            type="button"
            className="plain small"
            title="N: into the one picked last"
            disabled={locked}
            onClick={actions.sink}
          >
            Sink in
          </button>
        </div>
        <PlaceButtons actions={actions} locked={locked} />
      </div>
      <LineUp open={open} ids={ids} locked={locked} actions={actions} />
      {ids.length === 2 && (
        <RoomFields
          names={ids.map((id) => open.known.get(id)?.part.name ?? '')}
          locked={locked}
          actions={actions}
        />
      )}
      <Glaze open={open} ids={ids} colour={null} opacity={1} />
      <Drawer open={open} ids={ids} actions={actions} />
      <div className="section buttons">
        <button type="button" className="plain small" title="Ctrl+G" onClick={() => void actions.group()}>
          Group
        </button>
        <button type="button" className="plain small" onClick={() => void actions.duplicate()}>
          Duplicate
        </button>
        <button type="button" className="plain small" onClick={() => void actions.remove()}>
          Remove
        </button>
      </div>
    </>
  );
}

/** The first of many names, and how many more there are. */
const someNames = (names: string[]): string =>
  names.length <= MOST_NAMED
    ? names.join(', ')
    : `${names.slice(0, MOST_NAMED).join(', ')} and ${(names.length - MOST_NAMED).toLocaleString('en')} more`;
