/** Which pieces are to follow what has become of a part of the drawer: the maker chooses, and is told what came of it. */
import { useState } from 'react';
import type { KeptCard } from '../api/client';
import { useDrawerActions } from '../api/drawer';
import { plural } from './format';

export function LetFollow({ card }: { card: KeptCard }) {
  const { follow } = useDrawerActions();
  const behind = card.used.filter((u) => u.behind > 0);
  const [left, setLeft] = useState<string[]>([]);
  const chosen = behind.filter((u) => !left.includes(u.piece_id));
  const changed = card.used.filter((u) => u.changed > 0);
  const nameOf = (id: string) => card.used.find((u) => u.piece_id === id)?.name ?? 'A piece';
  return (
    <div className="let-follow">
      {behind.length > 0 && (
        <fieldset>
          <legend>Have copies as it was before</legend>
          {behind.map((used) => (
            <label key={used.piece_id}>
              <input
                type="checkbox"
                checked={!left.includes(used.piece_id)}
                onChange={(e) =>
                  setLeft(
                    e.currentTarget.checked
                      ? left.filter((id) => id !== used.piece_id)
                      : [...left, used.piece_id],
                  )
                }
              />{' '}
              {used.name} <span className="quiet">{plural(used.behind, 'copy', 'copies')}</span>
            </label>
          ))}
          <button
            type="button"
            className="plain small go"
            disabled={chosen.length === 0 || follow.isPending}
            onClick={() => follow.mutate({ id: card.id, pieces: chosen.map((u) => u.piece_id) })}
          >
            {chosen.length === behind.length ? 'Let them follow' : 'Let these follow'}
          </button>
        </fieldset>
      )}
      {changed.length > 0 && (
        <p className="quiet">
          Changed by itself in {changed.map((u) => u.name).join(', ')}: such copies follow only from their own
          cards.
        </p>
      )}
      {follow.data && (
        <ul role="status">
          {follow.data.map((f) => (
            <li key={f.piece_id} className={f.problem ? 'bad' : ''}>
              {nameOf(f.piece_id)}:{' '}
              {f.problem ?? `${plural(f.parts, 'copy', 'copies')} followed; undo is there`}
            </li>
          ))}
        </ul>
      )}
      {follow.error && <p className="bad">{follow.error.message}</p>}
    </div>
  );
}
