/** Make: the recipe, the view, the card of what is chosen, the tray, the join bar. */

import { useCallback, useEffect, useMemo, useRef } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { useKeepPreferences, usePreferences } from '../api/preferences';
import { BEGINNING, useEditor } from '../controls/editor';
import { handOver, meshesAmong } from '../controls/meshFiles';
import { PieceFrame, useOpenPiece } from '../controls/PieceFrame';
import { usePicture } from '../controls/usePicture';
import { EarlierSkin, useBothEarlier } from '../history/EarlierSkin';
import { apartBox } from '../viewport/apart';
import { partsBox, wholeBox } from '../viewport/boxes';
import { FloorDisc } from '../viewport/FloorDisc';
import { Grips } from '../viewport/grips/Grips';
import { PieceView } from '../viewport/PieceView';
import { over } from '../viewport/room';
import { SectionGrip } from '../viewport/section';
import { View, type ViewHandle } from '../viewport/View';
import { ViewDial } from '../viewport/ViewDial';
import { ApartPanel } from './ApartPanel';
import { makeActions } from './actions';
import { PartCard } from './card/PartCard';
import { DragNote } from './DragNote';
import { Finder } from './Finder';
import { JoinBar } from './JoinBar';
import { JustNow } from './JustNow';
import { makeRunners, useKeys } from './keys';
import { MeasureMarks } from './MeasureMarks';
import { Recipe } from './Recipe';
import { ReferencePictures } from './ReferencePictures';
import { bringInPictures, picturesAmong } from './references';
import { SectionPanel } from './SectionPanel';
import { Teach } from './Teach';
import { Tray } from './Tray';
import { toolNamed } from './tools/registry';
import { liveOf, useDragContext } from './useDragContext';
import { ViewButtons } from './ViewButtons';

export function Make() {
  const { open, failure, reload } = useOpenPiece();
  const preferences = usePreferences();
  const keep = useKeepPreferences().mutate;
  const navigate = useNavigate();
  const view = useRef<ViewHandle>({ rig: null, camera: null, canvas: null }).current;
  const actions = useMemo(() => (open ? makeActions(open, preferences) : null), [open, preferences]);
  const context = useDragContext(open, view);
  const live = useMemo(() => liveOf(context), [context]);
  const bothEarlier = useBothEarlier();
  const dragging = useEditor((s) => s.drag !== null);
  const tool = toolNamed(useEditor((s) => s.tool));
  const scene = open?.state.scene ?? null;
  usePicture(open);

  // Another stage may send parts along to be in hand.
  const chosen = (useLocation().state as { chosen?: string[] } | null)?.chosen ?? [];
  // biome-ignore lint/correctness/useExhaustiveDependencies: another piece begins anew
  useEffect(() => {
    useEditor.getState().set({ ...BEGINNING, chosen });
  }, [open?.id]);

  const framing = useMemo(
    () => ({
      all: () => {
        const { look, inside } = useEditor.getState();
        const apart = look === 'apart' && open ? apartBox(scene, open.known, inside) : null;
        view.rig?.frame(apart && !apart.isEmpty() ? apart : wholeBox(scene));
      },
      chosen: () => view.rig?.frame(partsBox(scene, useEditor.getState().chosen)),
    }),
    [view, scene, open],
  );
  const runners = useMemo(
    () =>
      open && actions
        ? makeRunners({
            open,
            actions,
            framing,
            rig: () => view.rig,
            grid: preferences.grid_mm,
            turn: preferences.turn_deg,
            toggleSnapping: () => keep({ ...preferences, snapping: !preferences.snapping }),
            go: (address) =>
              navigate(address, { state: { from: { id: open.id, name: open.state.piece.name } } }),
          })
        : null,
    [open, actions, framing, view, preferences, keep, navigate],
  );
  useKeys(runners);
  const toolProps = open && actions ? { open, context, view, actions, preferences } : null;
  const ready = useCallback(() => undefined, []);

  return (
    <PieceFrame
      open={open}
      stage="Make"
      failure={failure}
      undo={() => actions?.undo()}
      redo={() => actions?.redo()}
    >
      {open && actions && runners && toolProps && (
        <main className="columns">
          <Recipe open={open} actions={actions} />
          <div className="middle">
            {/* biome-ignore lint/a11y/noStaticElementInteractions: files are chosen with keys in the Mend stage */}
            <div
              className={`stage ${dragging ? 'dragging' : ''}`}
              data-testid="view"
              onDragOver={(e) => e.preventDefault()}
              onDrop={(e) => {
                e.preventDefault();
                const pictures = picturesAmong(e.dataTransfer.files);
                if (pictures.length) void bringInPictures(open, pictures);
                const files = meshesAmong(e.dataTransfer.files);
                if (files.length === 0) return;
                handOver(files);
                navigate('../mend', { relative: 'path' });
              }}
            >
              <View piece={open.id} scene={scene} handle={view} onReady={ready}>
                {scene && !bothEarlier && (
                  <PieceView
                    key={open.id}
                    piece={open.id}
                    scene={scene}
                    known={open.known}
                    onLost={reload}
                    stale={open.state.making !== null || open.state.problem !== null}
                  />
                )}
                <EarlierSkin id={open.id} revision={open.state.revision} />
                <MeasureMarks
                  measures={open.state.piece.measures ?? []}
                  skin={scene?.result?.key ?? null}
                  onDrop={(id) => void open.work.edit({ kind: 'drop_measures', ids: [id] })}
                />
                <ReferencePictures pictures={open.state.piece.pictures ?? []} />
                <FloorDisc />
                {context && (
                  <>
                    <Grips
                      context={context}
                      onResize={(id, size) => {
                        const was = scene?.parts.find((p) => p.id === id)?.size;
                        if (was) void open.work.edit({ kind: 'resize', id, size, was });
                      }}
                    />
                    <SectionGrip context={context} />
                  </>
                )}
                {tool.InScene && <tool.InScene {...toolProps} />}
              </View>
              {tool.OverView && <tool.OverView {...toolProps} />}
              <ViewButtons framing={framing} preferences={preferences} run={runners} />
              <ViewDial rig={() => view.rig} />
              {open.known.size === 0 ? (
                // Over a picture to begin by it would only be in the way.
                !open.state.piece.pictures?.length && <Teach />
              ) : (
                <NothingLeft shown={scene?.soundness?.triangles === 0} undo={actions.undo} />
              )}
              <div className="floor-bar" {...over('bottom')}>
                <DragNote />
                {tool.Note ? <tool.Note {...toolProps} /> : <JustNow open={open} />}
                <ApartPanel scene={scene} known={open.known} />
                <SectionPanel bounds={scene?.soundness?.bounds} />
                <JoinBar open={open} actions={actions} live={live} />
              </div>
              <Finder runners={runners} actions={actions} />
            </div>
            <Tray actions={actions} view={view} name={open.state.piece.name} />
          </div>
          <PartCard open={open} actions={actions} live={live} />
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
