/** One part of the drawer: its picture, what is written beside it, where copies of it are, and what can be done. */
import { useState } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { Link } from 'react-router';
import type { KeptCard } from '../api/client';
import type { useDrawerActions } from '../api/drawer';
import { useFavourites } from '../api/preferences';
import { CardMenu } from '../controls/CardMenu';
import { plural, size } from '../controls/format';
import { KeptForm } from '../controls/KeptForm';
import { KeptPicture } from '../controls/KeptPicture';
import { LetFollow } from '../controls/LetFollow';

type Props = {
  card: KeptCard;
  actions: ReturnType<typeof useDrawerActions>;
  putAway: () => void;
  /** The piece that the maker comes from. */
  into: string | null;
  put: () => void;
};

export function Kept({ card, actions, putAway, into, put }: Props) {
  const [written, setWritten] = useState(false);
  const { favourites, toggle } = useFavourites();
  const key = `kept ${card.id}`;
  const favourite = favourites.includes(key);
  const bounds = card.soundness?.bounds;
  const to = `/pieces/${card.id}/make`;
  return (
    <article className="piece-card kept" aria-label={card.name}>
      <Link to={to} className="picture" tabIndex={-1} aria-hidden="true">
        <KeptPicture card={card} />
      </Link>
      <div className="words">
        <h2>
          <Link to={to} title="open it, to look at it or change it">
            {card.name}
          </Link>
        </h2>
        <CardMenu name={card.name}>
          <Dropdown.Item as={Link} to={to}>
            Open and change it
          </Dropdown.Item>
          <Dropdown.Item as="button" onClick={() => setTimeout(() => setWritten(true))}>
            Name, tags, notes, size …
          </Dropdown.Item>
          <Dropdown.Item as="button" onClick={() => toggle(key)}>
            {favourite ? 'No favourite any more' : 'Make it a favourite'}
          </Dropdown.Item>
          <Dropdown.Item href={`/api/pieces/${card.id}/export?format=claypack`} download>
            Download it as a file
          </Dropdown.Item>
          <Dropdown.Item as="button" onClick={putAway}>
            Put into the bin
          </Dropdown.Item>
        </CardMenu>
        {written ? (
          <div className="wide">
            <KeptForm
              fields={card}
              word="Write it down"
              busy={actions.set.isPending}
              onKeep={(fields) =>
                actions.set.mutate({ id: card.id, fields }, { onSuccess: () => setWritten(false) })
              }
              onLeave={() => setWritten(false)}
            />
          </div>
        ) : (
          <>
            <div className="quiet numbers">
              {favourite && <span title="a favourite">★ </span>}
              {bounds ? size(bounds[0], bounds[1]) : plural(card.parts, 'part')}
              {card.fixed && ' · fixed size'}
            </div>
            <button type="button" className="plain small" onClick={put} disabled={Boolean(card.problem)}>
              {into ? 'Put it in' : 'New piece with it'}
            </button>
            {card.problem && <p className="wide bad">{card.problem}</p>}
            {card.tags.length > 0 && (
              <div className="wide tags">
                {card.tags.map((tag) => (
                  <span key={tag}>{tag}</span>
                ))}
              </div>
            )}
            {card.notes && <p className="wide quiet notes">{card.notes}</p>}
            <p className="wide quiet">{usedIn(card)}</p>
            <div className="wide">
              <LetFollow card={card} />
            </div>
          </>
        )}
      </div>
    </article>
  );
}

function usedIn({ used }: KeptCard): string {
  if (used.length === 0) return 'in no piece yet';
  const named = used.slice(0, 3).map((u) => (u.parts > 1 ? `${u.name} (${u.parts})` : u.name));
  return `in ${named.join(', ')}${used.length > 3 ? ` and ${used.length - 3} more` : ''}`;
}
