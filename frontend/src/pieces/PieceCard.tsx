/** One piece on the shelf. */
import { useState } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { Link } from 'react-router';
import type { PieceInShort } from '../api/client';
import type { usePieceActions } from '../api/pieces';
import { CardMenu } from '../controls/CardMenu';
import { day, plural, size } from '../controls/format';
import { SoundnessPill } from '../controls/SoundnessPill';
import { useCardPicture } from '../controls/useCardPicture';

export function PieceCard({
  card,
  actions,
}: {
  card: PieceInShort;
  actions: ReturnType<typeof usePieceActions>;
}) {
  const [draft, setDraft] = useState<string | null>(null);
  const picture = useCardPicture(card);
  const to = `/pieces/${card.id}/make`;
  const rename = () => {
    const name = draft?.trim();
    setDraft(null);
    if (name && name !== card.name) actions.rename.mutate({ id: card.id, revision: card.revision, name });
  };
  const bounds = card.soundness?.bounds;
  return (
    <article className="piece-card" aria-label={card.name}>
      <Link to={to} className="picture" tabIndex={-1} aria-hidden="true">
        {picture.address ? <img src={picture.address} alt="" /> : <span>{instead(card, picture.none)}</span>}
      </Link>
      <div className="words">
        <h2>
          {draft === null ? (
            <Link to={to}>{card.name}</Link>
          ) : (
            <input
              className="name-input"
              aria-label="New name"
              value={draft}
              maxLength={80}
              ref={(input) => input?.focus()}
              onChange={(e) => setDraft(e.currentTarget.value)}
              onBlur={rename}
              onKeyDown={(e) => {
                if (e.key === 'Enter') rename();
                if (e.key === 'Escape') setDraft(null);
              }}
            />
          )}
        </h2>
        <CardMenu name={card.name}>
          {card.problem ? (
            <>
              <Dropdown.Item as={Link} to={to}>
                What can be done …
              </Dropdown.Item>
              <Dropdown.Item href={`/api/pieces/${card.id}/export?format=clay.json`} download>
                Download it as it is
              </Dropdown.Item>
            </>
          ) : (
            <>
              {/* A moment later: the menu gives the focus back to its button as it closes. */}
              <Dropdown.Item as="button" onClick={() => setTimeout(() => setDraft(card.name))}>
                Rename
              </Dropdown.Item>
              <Dropdown.Item as="button" onClick={() => actions.duplicate.mutate(card.id)}>
                Duplicate
              </Dropdown.Item>
            </>
          )}
          <Dropdown.Item as="button" onClick={() => actions.bin.mutate(card.id)}>
            Put into the bin
          </Dropdown.Item>
        </CardMenu>
        <div className="quiet numbers">
          {bounds ? size(bounds[0], bounds[1]) : plural(card.parts, 'part')}
          {card.demo && ' · demo'}
          <br />
          {day(card.changed_at)}
        </div>
        {card.problem ? (
          <span className="pill bad" title={card.problem}>
            <span aria-hidden="true">▲</span>Cannot be read
          </span>
        ) : (
          <SoundnessPill soundness={card.soundness} parts={card.parts} />
        )}
      </div>
    </article>
  );
}

/** What stands in the place of a picture. */
function instead(card: PieceInShort, none: boolean): string {
  if (card.problem) return 'it cannot be read';
  if (card.parts === 0) return 'an empty wheel';
  return none ? 'no picture of it yet' : 'drawing it …';
}
