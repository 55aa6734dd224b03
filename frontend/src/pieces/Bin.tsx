/** The bin: pieces put away, to take back or to let go of for good. */
import { useState } from 'react';
import type { PieceInShort } from '../api/client';
import { day, plural } from '../controls/format';

export function Bin({
  cards,
  restore,
  empty,
}: {
  cards: PieceInShort[];
  restore: (id: string) => void;
  empty: () => void;
}) {
  const [asked, setAsked] = useState(false);
  if (cards.length === 0) {
    return (
      <div className="empty">
        <h2>The bin is empty</h2>
        <p>Pieces that you put away lie here until you empty it.</p>
      </div>
    );
  }
  return (
    <>
      <table className="table">
        <tbody>
          {cards.map((card) => (
            <tr key={card.id}>
              <td>
                {card.name}
                {card.in_drawer && <span className="quiet"> · of the parts drawer</span>}
              </td>
              <td className="quiet">{plural(card.parts, 'part')}</td>
              <td className="quiet">put away {day(card.binned_at ?? card.changed_at)}</td>
              <td className="text-end">
                <button type="button" className="plain small" onClick={() => restore(card.id)}>
                  Take back
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {asked ? (
        <div className="buttons align-items-center">
          <span>{plural(cards.length, 'piece')} will be gone for good.</span>
          <button
            type="button"
            className="plain go"
            onClick={() => {
              setAsked(false);
              empty();
            }}
          >
            Empty the bin
          </button>
          <button type="button" className="plain" onClick={() => setAsked(false)}>
            Leave it
          </button>
        </div>
      ) : (
        <button type="button" className="plain" onClick={() => setAsked(true)}>
          Empty the bin …
        </button>
      )}
    </>
  );
}
