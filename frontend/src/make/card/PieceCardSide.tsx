/** The card when nothing is chosen: the piece itself, and what to do next. */
import { useState } from 'react';
import { useDrawer } from '../../api/drawer';
import { LetFollow } from '../../controls/LetFollow';
import type { Open } from '../../controls/PieceFrame';
import { ShowLink } from '../../controls/ShowLink';

/** The piece is a part of the drawer: where copies of it are, and which of them are to follow what is changed here. */
function LyingThere({ id }: { id: string }) {
  const card = useDrawer().data?.find((c) => c.id === id);
  if (!card) return null;
  return (
    <div className="section">
      <h3>Parts drawer</h3>
      <p className="quiet mb-1">
        {card.used.length === 0
          ? 'A part of your drawer; no piece has a copy of it yet.'
          : `A part of your drawer. Copies are in ${card.used.map((u) => u.name).join(', ')}.`}
      </p>
      <LetFollow card={card} />
    </div>
  );
}

export function PieceCardSide({ open }: { open: Open }) {
  const { piece } = open.state;
  const [notes, setNotes] = useState<string | null>(null);
  const keep = () => {
    if (notes !== null && notes !== piece.notes) void open.work.edit({ kind: 'set_piece', notes });
    setNotes(null);
  };
  return (
    <aside className="side right" aria-label="Card of the piece">
      <div className="pad">
        <h2>{piece.name}</h2>
        <div className="quiet">nothing is picked</div>
      </div>
      <div className="section field">
        <h3>Notes</h3>
        <textarea
          className="form-control"
          rows={4}
          aria-label="Notes"
          maxLength={20000}
          placeholder="What it is for, how big it shall be …"
          value={notes ?? piece.notes}
          onChange={(e) => setNotes(e.currentTarget.value)}
          onBlur={keep}
        />
      </div>
      {piece.drawer && <LyingThere id={open.id} />}
      <ShowLink id={open.id} />
      <div className="section">
        <h3>Next</h3>
        <ul className="ps-3 mb-0">
          <li>Click a primitive below, or drag it to its spot.</li>
          <li>Click a part to size, place and glaze it here.</li>
          <li>
            Pick two with <kbd>Shift</kbd> to join them, or cut one out of the other.
          </li>
          <li>Sound? Then Export.</li>
        </ul>
      </div>
      <div className="section">
        <h3>Keys</h3>
        <div className="quiet">
          arrows move by 1 mm, with Shift by 0.1 · Page Up, Page Down raise and lower · Home frames all,
          Shift+Home what is picked · K shows or hides cutters · Ctrl+Z, Ctrl+Y
        </div>
      </div>
    </aside>
  );
}
