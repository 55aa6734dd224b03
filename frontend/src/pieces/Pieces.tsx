/** Pieces: all pieces as cards; new, open a file, rename, duplicate, and a bin to take things back from. */
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { usePieceActions, usePieceCards } from '../api/pieces';
import { Failed } from '../controls/Failed';
import { FileButton } from '../controls/FileButton';
import { plural } from '../controls/format';
import { handOver, MESH_ENDINGS, meshesAmong, nameOf } from '../controls/meshFiles';
import { useTitle } from '../controls/useTitle';
import { Bin } from './Bin';
import { PieceCard } from './PieceCard';

export function Pieces() {
  useTitle('Pieces');
  const cards = usePieceCards(false);
  const binned = usePieceCards(true);
  const actions = usePieceActions();
  const navigate = useNavigate();
  const [wanted, setWanted] = useState('');
  const [binOpen, setBinOpen] = useState(false);
  const failed = [
    actions.create,
    actions.open,
    actions.duplicate,
    actions.bin,
    actions.restore,
    actions.rename,
  ].find((a) => a.error);
  const found = (cards.data ?? []).filter((c) => c.name.toLowerCase().includes(wanted.trim().toLowerCase()));

  const begin = async () => {
    const state = await actions.create.mutateAsync(freshName(cards.data?.map((c) => c.name) ?? []));
    navigate(`/pieces/${state.id}/make`);
  };
  const openFile = async (file: File | undefined) => {
    if (!file) return;
    const state = await actions.open.mutateAsync(file);
    navigate(`/pieces/${state.id}/make`);
  };

  const bringIn = async (files: File[]) => {
    const [first] = files;
    if (!first) return;
    const state = await actions.create.mutateAsync(nameOf(first));
    handOver(files);
    navigate(`/pieces/${state.id}/mend`);
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
          <Link className="plain" to="/drawer" title="what you keep for other pieces">
            Parts drawer
          </Link>
          <Link className="plain" to="/preferences">
            Preferences
          </Link>
        </div>
      </header>
      {failed?.error || cards.failureReason ? (
        <Failed error={(failed?.error ?? cards.failureReason) as Error} dismiss={failed?.reset} />
      ) : (
        <span />
      )}
      <main
        className="shelf"
        onDragOver={(e) => e.preventDefault()}
        onDrop={(e) => {
          e.preventDefault();
          const meshes = meshesAmong(e.dataTransfer.files);
          void (meshes.length ? bringIn(meshes) : openFile(e.dataTransfer.files[0])).catch(() => undefined);
        }}
      >
        <div className="shelf-head">
          <h1>{binOpen ? 'The bin' : 'Pieces'}</h1>
          {!binOpen && (
            <input
              type="search"
              placeholder="Find a piece"
              aria-label="Find a piece"
              value={wanted}
              onChange={(e) => setWanted(e.currentTarget.value)}
            />
          )}
          <button type="button" className="plain" onClick={() => setBinOpen(!binOpen)}>
            {binOpen ? 'Back to the pieces' : `Bin${binned.data?.length ? ` (${binned.data.length})` : ''}`}
          </button>
          {!binOpen && (
            <>
              <FileButton
                word="Bring in a mesh"
                label="Mesh file"
                accept={MESH_ENDINGS}
                several
                title="STL, 3MF, OBJ, PLY or GLB, as a new piece; or drop files on this page"
                onFiles={(files) => void bringIn(files).catch(() => undefined)}
              />
              <FileButton
                word="Open a piece file"
                label="Piece file"
                accept=".json,.claypack"
                title="a .clay.json or .claypack file; or drop it on this page"
                onFiles={([file]) => void openFile(file).catch(() => undefined)}
              />
              <button type="button" className="plain go" onClick={() => void begin().catch(() => undefined)}>
                New piece
              </button>
            </>
          )}
        </div>
        {binOpen ? (
          <Bin
            cards={binned.data ?? []}
            restore={(id) => actions.restore.mutate(id)}
            empty={() => actions.emptyBin.mutate()}
          />
        ) : (
          <>
            <div className="cards">
              {found.map((card) => (
                <PieceCard key={card.id} card={card} actions={actions} />
              ))}
            </div>
            {cards.data && found.length === 0 && (
              <div className="empty">
                <h2>{wanted ? 'No piece is called that' : 'An empty shelf'}</h2>
                <p>
                  {wanted
                    ? `${plural(cards.data.length, 'piece')} in all.`
                    : 'Begin a piece, bring in a mesh, or open a piece file. Files can be dropped anywhere on this page.'}
                </p>
              </div>
            )}
          </>
        )}
      </main>
    </div>
  );
}

/** "New piece", numbered where that is taken. */
function freshName(taken: string[]): string {
  let number = 1;
  const name = () => (number === 1 ? 'New piece' : `New piece ${number}`);
  while (taken.includes(name())) number++;
  return name();
}
