/** A piece to look at by a link: turned, framed, in any surface; nothing can be changed, and nothing else is told. */
import { useMemo, useRef } from 'react';
import { useParams } from 'react-router';
import type { Scene, ShownPiece } from '../api/client';
import { useShownPiece } from '../api/links';
import { useEditor } from '../controls/editor';
import { size } from '../controls/format';
import { knownParts } from '../controls/tree';
import { useTitle } from '../controls/useTitle';
import { wholeBox } from '../viewport/boxes';
import { SURFACES } from '../viewport/looks';
import { PieceView } from '../viewport/PieceView';
import { View, type ViewHandle, ViewHost } from '../viewport/View';
import { ViewDial } from '../viewport/ViewDial';

export function Look() {
  const { link = '' } = useParams();
  const { data: piece, error, refetch } = useShownPiece(link);
  useTitle(piece && !error ? piece.name : 'A piece');
  return (
    <div className="app">
      <header className="top">
        <div className="brand">
          <img src="/seal.svg" alt="" />
          {piece && !error && <h1 className="name">{piece.name}</h1>}
        </div>
        <span />
        <div className="top-right">{piece && !error && <Facts piece={piece} />}</div>
      </header>
      <span />
      {error ? (
        <main className="empty">
          <h1>There is nothing to see here</h1>
          <p>{error.message}</p>
        </main>
      ) : piece ? (
        <Showing link={link} piece={piece} reload={() => void refetch()} />
      ) : (
        <main className="empty">
          <p className="quiet">Bringing the piece …</p>
        </main>
      )}
    </div>
  );
}

function Facts({ piece }: { piece: ShownPiece }) {
  if (!piece.bounds) return null;
  const [low, high] = piece.bounds;
  return <span className="numbers">{size(low, high)}</span>;
}

function Showing({ link, piece, reload }: { link: string; piece: ShownPiece; reload: () => void }) {
  const view = useRef<ViewHandle>({ rig: null, camera: null, canvas: null }).current;
  const surface = useEditor((s) => s.surface);
  const scene = useMemo(() => sceneOf(piece), [piece]);
  const known = useMemo(() => knownOf(piece), [piece]);
  return (
    <main className="looked-at">
      <div className="stage" data-testid="view">
        <View piece={link} scene={scene} handle={view}>
          {scene && <PieceView scene={scene} known={known} onLost={reload} plain />}
        </View>
        <ViewHost />
        <fieldset className="looks" aria-label="How its surface is drawn">
          {SURFACES.map(({ surface: s, word, title }) => (
            <button
              key={s}
              type="button"
              aria-pressed={s === surface}
              title={title}
              onClick={() => useEditor.setState({ surface: s })}
            >
              {word}
            </button>
          ))}
        </fieldset>
        <ViewDial rig={() => view.rig} />
        <div className="floor-bar">
          <section className="panel" aria-label="How to look at it">
            {piece.problem ? (
              'This piece cannot be made just now.'
            ) : scene ? (
              <>
                <span className="quiet">drag to turn it, the wheel of the mouse comes nearer</span>
                <button
                  type="button"
                  className="plain small"
                  onClick={() => view.rig?.frame(wholeBox(scene))}
                >
                  Frame it
                </button>
              </>
            ) : (
              'It is being made …'
            )}
          </section>
        </div>
      </div>
    </main>
  );
}

/** What the view needs to know of it: its skin, and how far it goes. */
function sceneOf({ skin, parts, bounds }: ShownPiece): Scene | null {
  if (!skin) return null;
  const whole = {
    id: 'whole',
    key: null,
    matrices: [],
    own: null,
    size: null,
    box: bounds,
    chord_error: null,
    drawn_origin: null,
    handles: [],
  };
  return {
    // Its mesh has an address of its own, and is there or not.
    result: { key: skin, triangles: 1, parts: parts.map((_, i) => `${i}`) },
    patch: null,
    parts: [whole],
    soundness: null,
    seconds: {},
  };
}

/** Parts of which nothing is known but their glaze. */
const knownOf = ({ parts }: ShownPiece) =>
  knownParts({
    format: 'noble-clay-piece',
    version: 1,
    name: 'shown',
    parts: parts.map(({ colour, opacity }, i) => ({
      id: `${i}`,
      name: `${i}`,
      op: 'union',
      colour,
      opacity,
    })),
  } as unknown as Parameters<typeof knownParts>[0]);
