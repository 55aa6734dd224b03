/** What a part has to do with the parts drawer: to be kept in it; or, a copy of what lies there, to follow it. */
import { useState } from 'react';
import type { KeptFields } from '../../api/client';
import { useCopyNotes, useLookIntoDrawer } from '../../api/drawer';
import { KeptForm } from '../../controls/KeptForm';
import type { Open } from '../../controls/PieceFrame';
import type { Actions } from '../actions';
import { setPart } from './setPart';

export const KEEP = 'keep-in-drawer';

type Props = { open: Open; ids: string[]; actions: Actions };

export function Drawer({ open, ids, actions }: Props) {
  const [asked, setAsked] = useState(false);
  const [kept, setKept] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const lookAgain = useLookIntoDrawer();
  const [first] = ids;
  const part = first ? open.known.get(first)?.part : undefined;
  if (!part) return null;
  const copy = ids.length === 1 && part.drawer;
  const keep = async (fields: KeptFields) => {
    setBusy(true);
    if (await actions.keep(ids, fields)) {
      void lookAgain();
      setAsked(false);
      setKept(fields.name);
    }
    setBusy(false);
  };
  const name = ids.length === 1 ? part.name : `${part.name} and more`.slice(0, 80);
  return (
    <div className="section">
      <h3>Parts drawer</h3>
      {copy && <Copy open={open} id={part.id} actions={actions} />}
      {asked ? (
        <KeptForm
          fields={{ name, tags: [], notes: '', fixed: false }}
          word="Keep it"
          busy={busy}
          onKeep={(fields) => void keep(fields)}
          onLeave={() => setAsked(false)}
        />
      ) : (
        <>
          {kept && !copy && (
            <p className="quiet" role="status">
              A copy lies in the drawer as {kept}.
            </p>
          )}
          <button
            type="button"
            id={KEEP}
            className="plain small"
            title="Alt+K: for other pieces, under a name"
            onClick={() => setAsked(true)}
          >
            {copy ? 'Keep as another …' : 'Keep in the drawer …'}
          </button>
        </>
      )}
    </div>
  );
}

/** A copy of what lies in the drawer: whether it still is as there, and what can be done about it. */
function Copy({ open, id, actions }: { open: Open; id: string; actions: Actions }) {
  const note = useCopyNotes(open.state, true)?.find((n) => n.id === id);
  const lookAgain = useLookIntoDrawer();
  const link = open.known.get(id)?.part.drawer;
  if (!note || !link) return null;
  const there = note.name;
  return (
    <>
      <p className="mb-1">{said(note.name, note.changed, note.behind)}</p>
      <div className="buttons mb-2">
        {there && note.changed && (
          <button
            type="button"
            className="plain small"
            title="Other pieces may follow it then; the drawer asks which"
            onClick={() => void actions.withDrawer('put-back', id).then(lookAgain)}
          >
            Let the drawer have this
          </button>
        )}
        {there && (note.changed || note.behind) && (
          <button type="button" className="plain small" onClick={() => void actions.withDrawer('follow', id)}>
            {note.changed ? 'As in the drawer again' : 'Follow the drawer'}
          </button>
        )}
        {note.fixed && (
          <button
            type="button"
            className="plain small"
            title="Its size may be changed here from then on"
            onClick={() => setPart(open, [id], { drawer: { ...link, scale: null } })}
          >
            Free its size
          </button>
        )}
        <button
          type="button"
          className="plain small"
          title="It is this piece's own from then on, and follows nothing"
          onClick={() => setPart(open, [id], { drawer: null })}
        >
          Let go of it
        </button>
      </div>
    </>
  );
}

function said(name: string | null, changed: boolean, behind: boolean): string {
  if (name === null) return 'It was taken out of the drawer, where it does not lie any more.';
  const begun = `A copy of ${name}, which lies in the drawer`;
  if (changed && behind) return `${begun}. It was changed here, and the other there.`;
  if (changed) return `${begun}. It was changed here.`;
  return behind ? `${begun} and was changed there.` : `${begun}.`;
}
