/** Make: the recipe, the view, the card of what is chosen, the tray, the join bar. */
import { useCallback, useEffect, useMemo, useRef } from 'react';
import { type Look, useEditor } from '../controls/editor';
import { PieceFrame, useOpenPiece } from '../controls/PieceFrame';
import { usePicture } from '../controls/usePicture';
import { Hand } from '../viewport/Hand';
import { PieceView } from '../viewport/PieceView';
import { SightDial } from '../viewport/SightDial';
import { partsBox, View, type ViewHandle, wholeBox } from '../viewport/View';
import { makeActions } from './actions';
import { Card } from './Card';
import { DragNote } from './DragNote';
import { JoinBar } from './JoinBar';
import { useKeys } from './keys';
import { Recipe } from './Recipe';
import { Teach } from './Teach';
import { Tray } from './Tray';

const LOOKS: { look: Look; word: string; title: string }[] = [
  { look: 'result', word: 'Result', title: 'the joined skin, cutters dotted' },
  { look: 'parts', word: 'Parts', title: 'every part whole' },
  { look: 'xray', word: 'X-ray', title: 'see through the skin' },
];

export function Make() {
  const { open, failure, reload } = useOpenPiece();
  const { look, setLook, chosen, choose, cutters, toggleCutters } = useEditor();
  const view = useRef<ViewHandle>({ eye: null, camera: null, canvas: null }).current;
  const actions = useMemo(() => (open ? makeActions(open) : null), [open]);
  const scene = open?.state.scene ?? null;
  usePicture(open);

  // biome-ignore lint/correctness/useExhaustiveDependencies: another piece begins with nothing chosen
  useEffect(() => choose([]), [open?.id, choose]);

  const framing = useMemo(
    () => ({
      all: () => view.eye?.frame(wholeBox(scene)),
      chosen: () => view.eye?.frame(partsBox(scene, useEditor.getState().chosen)),
    }),
    [view, scene],
  );
  const eye = useCallback(() => view.eye, [view]);
  useKeys(actions, eye, framing);
  const ready = useCallback(() => undefined, []);

  return (
    <PieceFrame open={open} failure={failure} undo={() => actions?.undo()} redo={() => actions?.redo()}>
      {open && actions && (
        <main className="columns">
          <Recipe open={open} />
          <div className="middle">
            <div className="stage" data-testid="view">
              <View scene={scene} handle={view} onReady={ready}>
                {scene && <PieceView scene={scene} known={open.known} onLost={reload} />}
                <Hand known={open.known} view={view} onMove={(ids, by) => void actions.move(ids, by)} />
              </View>
              <fieldset className="looks" aria-label="Way of looking">
                {LOOKS.map(({ look: l, word, title }) => (
                  <button
                    key={l}
                    type="button"
                    aria-pressed={look === l}
                    title={title}
                    onClick={() => setLook(l)}
                  >
                    {word}
                  </button>
                ))}
              </fieldset>
              <div className="view-buttons">
                <button type="button" className="plain small" title="Home" onClick={framing.all}>
                  Frame all
                </button>
                {chosen.length > 0 && (
                  <button type="button" className="plain small" title="Shift+Home" onClick={framing.chosen}>
                    Frame what is picked
                  </button>
                )}
                <button
                  type="button"
                  className="plain small"
                  title="K"
                  aria-pressed={cutters}
                  onClick={toggleCutters}
                >
                  {cutters ? 'Hide cutters' : 'Show cutters'}
                </button>
              </div>
              <SightDial onLook={(side) => view.eye?.look(side)} />
              {open.known.size === 0 ? (
                <Teach />
              ) : (
                <NothingLeft shown={scene?.soundness.triangles === 0} undo={actions.undo} />
              )}
              <div className="floor-bar">
                <DragNote open={open} />
                <JoinBar open={open} actions={actions} />
              </div>
            </div>
            <Tray actions={actions} view={view} />
          </div>
          <Card open={open} actions={actions} />
        </main>
      )}
    </PieceFrame>
  );
}

function NothingLeft({ shown, undo }: { shown: boolean; undo: () => void }) {
  if (!shown) return null;
  return (
    <div className="teach">
      <h2>Nothing is left</h2>
      <p>
        The parts are all there, but what they make together is empty: a cut took everything, or the parts
        share nothing.
      </p>
      <button type="button" className="plain" onClick={undo}>
        Undo the last step
      </button>
    </div>
  );
}
