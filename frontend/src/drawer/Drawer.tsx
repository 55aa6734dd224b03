/** The parts drawer: what the maker keeps for other pieces; found by name and tag, used, changed, taken away and in. */
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import type { KeptCard } from '../api/client';
import { useDrawer, useDrawerActions } from '../api/drawer';
import { usePieceActions } from '../api/pieces';
import { type Spot, workOf } from '../api/work';
import { Failed } from '../controls/Failed';
import { FileButton } from '../controls/FileButton';
import { plural } from '../controls/format';
import { useTitle } from '../controls/useTitle';
import { Favourites } from './Favourites';
import { Kept } from './Kept';

const BESIDE: Spot = { at: null, on: null, beside: true };

export function Drawer() {
  useTitle('Parts drawer');
  const drawer = useDrawer();
  const actions = useDrawerActions();
  const pieces = usePieceActions();
  const client = useQueryClient();
  const navigate = useNavigate();
  const from = (useLocation().state as { from?: { id: string; name: string } } | null)?.from ?? null;
  const [wanted, setWanted] = useState('');
  const [away, setAway] = useState<KeptCard | null>(null);
  const [tag, setTag] = useState<string | null>(null);
  const cards = drawer.data ?? [];
  const tags = [...new Set(cards.flatMap((c) => c.tags))].sort((a, b) => a.localeCompare(b));
  const found = cards.filter((c) => holds(c, wanted) && (!tag || c.tags.includes(tag)));
  const failed = [actions.set, actions.takeIn, pieces.bin, pieces.restore, pieces.create].find(
    (a) => a.error,
  );

  const takeIn = (files: File[]) => {
    for (const file of files) actions.takeIn.mutate(file);
  };
  const put = async (card: KeptCard) => {
    const id = from?.id ?? (await pieces.create.mutateAsync(`Piece with ${card.name}`.slice(0, 80))).id;
    const answer = await workOf(client, id).putReady({ kept: card.id }, BESIDE);
    navigate(`/pieces/${id}/make`, { state: { chosen: answer?.chosen ?? [] } });
  };

  return (
    <div className="app">
      <header className="top">
        <div className="brand">
          <img src="/seal.svg" alt="" />
          <span className="name">Noble Clay</span>
        </div>
        <span />
        <div className="top-right">
          <button
            type="button"
            className="plain"
            onClick={() => navigate(from ? `/pieces/${from.id}/make` : '/')}
          >
            {from ? `Back to ${from.name}` : 'Pieces'}
          </button>
        </div>
      </header>
      {failed?.error || drawer.failureReason ? (
        <Failed error={(failed?.error ?? drawer.failureReason) as Error} dismiss={failed?.reset} />
      ) : away ? (
        <div className="notice" role="status">
          <span>{away.name} lies in the bin. Pieces that have copies of it keep them.</span>
          <button
            type="button"
            className="plain small"
            onClick={() => pieces.restore.mutate(away.id, { onSuccess: () => setAway(null) })}
          >
            Take it back
          </button>
          <button type="button" className="plain small" onClick={() => setAway(null)}>
            All right
          </button>
        </div>
      ) : (
        <span />
      )}
      <main
        className="shelf"
        onDragOver={(e) => e.preventDefault()}
        onDrop={(e) => {
          e.preventDefault();
          takeIn([...e.dataTransfer.files]);
        }}
      >
        <div className="shelf-head">
          <h1>Parts drawer</h1>
          <input
            type="search"
            placeholder="Name, tag or note"
            aria-label="Find in the drawer"
            value={wanted}
            onChange={(e) => setWanted(e.currentTarget.value)}
          />
          <FileButton
            word="Take in a file"
            label="Piece file for the drawer"
            accept=".json,.claypack"
            several
            title="a piece file, .clay.json or .claypack; or drop it on this page"
            onFiles={takeIn}
          />
        </div>
        {tags.length > 0 && (
          <fieldset className="tags choose" aria-label="Tags">
            {tags.map((t) => (
              <button
                key={t}
                type="button"
                aria-pressed={t === tag}
                onClick={() => setTag(t === tag ? null : t)}
              >
                {t}
              </button>
            ))}
          </fieldset>
        )}
        <div className="cards">
          {found.map((card) => (
            <Kept
              key={card.id}
              card={card}
              actions={actions}
              putAway={() => pieces.bin.mutate(card.id, { onSuccess: () => setAway(card) })}
              into={from?.name ?? null}
              put={() => void put(card).catch(() => undefined)}
            />
          ))}
        </div>
        {drawer.data && found.length === 0 && (
          <div className="empty">
            <h2>{cards.length ? 'Nothing is called that' : 'Nothing is kept yet'}</h2>
            <p>
              {cards.length
                ? `${plural(cards.length, 'part')} in all.`
                : 'Pick a part or several in Make, and choose “Keep in the drawer” on the card at the right. What is kept can be put into every piece, from the tray.'}
            </p>
          </div>
        )}
        <Favourites />
      </main>
    </div>
  );
}

/** Whether a part has every word of what is wanted in its name, tags or notes. */
function holds({ name, tags, notes }: KeptCard, wanted: string): boolean {
  const text = [name, ...tags, notes].join(' ').toLowerCase();
  return wanted
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}
