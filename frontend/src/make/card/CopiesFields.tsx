/** Copies of a part: begun, changed by number, taken away, or broken apart into parts of their own. */
import type { Copies, Part } from '../../api/client';
import { useCopies } from '../../api/pieces';
import { RecordFields } from '../../controls/fields/RecordFields';
import type { Values } from '../../controls/fields/starts';
import type { Open } from '../../controls/PieceFrame';
import type { Actions } from '../actions';
import { beginCopies, type CopiesKind, pathAlong, setCopies, toFollow } from './copies';

type Props = { open: Open; part: Part; actions: Actions };

export function CopiesFields({ open, part, actions }: Props) {
  const copies = part.copies;
  const kinds = useCopies().data ?? [];
  const info = kinds.find((k) => k.kind === copies?.kind);
  const set = (changed: Values) =>
    void setCopies(open, part.id, { ...copies, ...changed } as unknown as Copies);
  return (
    <div className="section copies">
      <h3>
        Copies
        {copies && (
          <button type="button" className="bare quiet" onClick={() => void setCopies(open, part.id, null)}>
            take away
          </button>
        )}
      </h3>
      <fieldset className="switch" aria-label="Copies" disabled={part.locked}>
        {kinds.map(({ kind, label, summary }) => (
          <button
            key={kind}
            type="button"
            title={summary}
            aria-pressed={copies?.kind === kind}
            onClick={() => beginCopies(open, [part.id], kind as CopiesKind)}
          >
            {label}
          </button>
        ))}
      </fieldset>
      {copies && (
        <>
          <div className="fields mt-2">
            <RecordFields
              fields={info?.fields ?? []}
              either={info?.either ?? null}
              values={copies as unknown as Values}
              disabled={part.locked}
              onSet={set}
            />
            {copies.kind === 'path' && <Follow open={open} part={part} onSet={set} />}
            {copies.kind === 'ring' && (
              <button
                type="button"
                className="plain small full-turn"
                disabled={part.locked}
                title="the copies share a full turn"
                onClick={() => set({ angle: 360 / copies.count })}
              >
                Full turn
              </button>
            )}
          </div>
          <div className="buttons mt-2">
            <button type="button" className="plain small" onClick={() => void actions.breakCopies()}>
              Break apart
            </button>
          </div>
        </>
      )}
    </div>
  );
}

/** The path of a limb or an outline taken over: a chain of what is copied lies along it. */
function Follow({ open, part, onSet }: { open: Open; part: Part; onSet: (changed: Values) => void }) {
  const drawn = toFollow(open, part);
  if (!drawn.length) return null;
  return (
    <div className="field follow">
      <label htmlFor={`follow ${part.id}`} title="takes over the points of a limb or an outline">
        Lay it along
      </label>
      <select
        id={`follow ${part.id}`}
        value=""
        disabled={part.locked}
        onChange={(e) => {
          const other = drawn.find((d) => d.id === e.currentTarget.value);
          const found = other && pathAlong(open, part, other);
          if (found) onSet({ ...found, turn: true });
        }}
      >
        <option value="">a drawn part …</option>
        {drawn.map((d) => (
          <option key={d.id} value={d.id}>
            {d.name}
          </option>
        ))}
      </select>
    </div>
  );
}

/** How many copies, in a word or two, for the recipe. */
export function briefly(copies: Copies): string {
  switch (copies.kind) {
    case 'twin':
      return '×2 twin';
    case 'grid':
      return `×${copies.counts.reduce((a, b) => a * b, 1)} grid`;
    case 'path':
      return copies.count ? `×${copies.count} path` : 'path';
    default:
      return `×${copies.count} ${copies.kind}`;
  }
}
