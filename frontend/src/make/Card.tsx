/** The card at the right: the chosen part's name, how it enters, size, place, turn, its own fields and its glaze. */
import { useQuery } from '@tanstack/react-query';
import type { Op, Part, PartFields } from '../api/client';
import { usePrimitives } from '../api/pieces';
import { type Floor, useEditor } from '../controls/editor';
import { NameField } from '../controls/NameField';
import { NumberField } from '../controls/NumberField';
import type { Open } from '../controls/PieceFrame';
import { bodyOf, SIGN } from '../controls/tree';
import { GLAZES } from '../theme/glazes';
import type { Actions } from './actions';
import { BlendFields } from './BlendFields';
import { CopiesFields } from './CopiesFields';
import { CutterFields, RoomFields } from './CutterFields';
import { LineUp } from './LineUp';
import { MarksNote } from './MarksNote';
import { OwnFields } from './OwnFields';
import { PieceCardSide } from './PieceCardSide';
import { ShapeChanges } from './ShapeChanges';
import type { Live } from './useReins';

type Props = { open: Open; actions: Actions; live: Live };

export function Card({ open, actions, live }: Props) {
  const chosen = useEditor((s) => s.chosen).filter((id) => open.known.has(id));
  if (chosen.length === 0) return <PieceCardSide open={open} />;
  const [first] = chosen;
  return (
    <aside className="side right" aria-label="Card of what is chosen">
      {chosen.length === 1 && first ? (
        <OnePart key={first} open={open} id={first} actions={actions} live={live} />
      ) : (
        <Several open={open} ids={chosen} actions={actions} />
      )}
    </aside>
  );
}

const setPart = (open: Open, ids: string[], fields: Partial<PartFields>) =>
  void open.work.edit({ kind: 'set_part', ids, fields: fields as never });

function OnePart({ open, id, actions, live }: Props & { id: string }) {
  const known = open.known.get(id);
  const view = open.state.scene?.parts.find((p) => p.id === id);
  const primitives = usePrimitives().data ?? [];
  if (!known) return null;
  const { part } = known;
  const what = part.primitive
    ? primitives.find((p) => p.kind === part.primitive?.kind)?.label
    : part.join
      ? 'Join'
      : 'Mesh';
  return (
    <>
      <div className="pad card-head">
        <span className="swatch" style={{ background: known.colour }} />
        <div>
          <h2>
            <NameField
              name={part.name}
              label="Name of the part"
              onRename={(name) => setPart(open, [id], { name })}
            />
          </h2>
          <div className="quiet">
            {what} {known.parent ? `in ${known.parent.name}` : 'on the wheel'}
          </div>
        </div>
      </div>
      <MarksNote open={open} id={id} />
      <Enters open={open} part={part} />
      {view?.size && <SizeFields key={view.size.join()} open={open} part={part} size={view.size} />}
      {view?.box && (
        <PlaceFields
          open={open}
          part={part}
          box={view.box}
          matrix={view.matrices[0] ?? []}
          actions={actions}
        />
      )}
      <TurnFields open={open} part={part} />
      {part.primitive && <OwnFields open={open} part={part} />}
      <BlendFields open={open} part={part} live={live} />
      <ShapeChanges open={open} part={part} />
      <Glaze open={open} ids={[id]} colour={part.colour ?? null} />
      <CopiesFields open={open} part={part} actions={actions} />
      <CutterFields part={part} isBody={bodyOf(open.state.piece, known)?.id === part.id} actions={actions} />
      <Shown part={part} actions={actions} />
      <div className="section buttons">
        {part.join && (
          <button type="button" className="plain small" onClick={() => void actions.ungroup()}>
            Ungroup
          </button>
        )}
        <button type="button" className="plain small" title="Ctrl+D" onClick={() => void actions.duplicate()}>
          Duplicate
        </button>
        <button
          type="button"
          className="plain small"
          title="Ctrl+Shift+D: once more, by the same step"
          onClick={() => void actions.duplicateAgain()}
        >
          Again
        </button>
        <button type="button" className="plain small" title="Delete" onClick={() => void actions.remove()}>
          Remove
        </button>
      </div>
    </>
  );
}

/** Adds, cuts or keeps; the body of a list has no choice. */
function Enters({ open, part }: { open: Open; part: Part }) {
  const known = open.known.get(part.id);
  if (!known || part.reference) return null;
  if (bodyOf(open.state.piece, known)?.id === part.id) return null;
  const words: Record<Op, string> = { union: 'adds', difference: 'cuts', intersection: 'keeps' };
  return (
    <div className="section">
      <fieldset className="switch" aria-label="How it enters">
        {(Object.keys(words) as Op[]).map((op) => (
          <button
            key={op}
            type="button"
            className={op}
            aria-pressed={part.op === op}
            onClick={() => setPart(open, [part.id], { op })}
          >
            {SIGN[op]} {words[op]}
          </button>
        ))}
      </fieldset>
    </div>
  );
}

function SizeFields({ open, part, size }: { open: Open; part: Part; size: [number, number, number] }) {
  const tie = useEditor((s) => s.proportions);
  const set = useEditor((s) => s.set);
  const apply = (axis: number, value: number) => {
    const factor = value / (size[axis] as number);
    const wanted = size.map((s, i) => (i === axis ? value : tie ? s * factor : s));
    void open.work.edit({ kind: 'resize', id: part.id, size: wanted as [number, number, number], was: size });
  };
  return (
    <div className="section">
      <h3>
        Size
        <label className="quiet">
          <input type="checkbox" checked={tie} onChange={() => set({ proportions: !tie })} /> keep proportions
        </label>
      </h3>
      <div className="fields">
        {['Wide', 'Deep', 'High'].map((label, i) => (
          <NumberField
            key={label}
            label={label}
            value={size[i] as number}
            least={0.001}
            disabled={part.locked}
            onApply={(v) => apply(i, v)}
          />
        ))}
      </div>
    </div>
  );
}

type Box = [[number, number, number], [number, number, number]];
type PlaceProps = { open: Open; part: Part; box: Box; matrix: number[]; actions: Actions };

function PlaceFields({ open, part, box, matrix, actions }: PlaceProps) {
  const floor = useEditor((s) => s.floor);
  const height = useHeight(open, part.id, floor);
  const [x, y] = [matrix[3] ?? 0, matrix[7] ?? 0];
  const base = floor ? height : box[0][2];
  const by = (dx: number, dy: number, dz: number) => actions.move([part.id], [dx, dy, dz]);
  return (
    <div className="section">
      <h3>Place</h3>
      <div className="fields">
        <NumberField
          label="Across"
          title="to the right of the wheel's middle"
          value={x}
          disabled={part.locked}
          onApply={(v) => by(v - x, 0, 0)}
        />
        <NumberField
          label="Away"
          title="behind the wheel's middle"
          value={y}
          disabled={part.locked}
          onApply={(v) => by(0, v - y, 0)}
        />
        <NumberField
          label="Base at"
          title={`height of its lowest point over ${floor ? `the face of ${floor.name}` : 'the wheel'}`}
          value={base ?? 0}
          disabled={part.locked || base === null}
          onApply={(v) => (floor ? actions.setDown(v) : by(0, 0, v - box[0][2]))}
        />
      </div>
      <PlaceButtons actions={actions} locked={part.locked} />
    </div>
  );
}

/** How high a part's lowest point is over the face that is the floor for now; null while that is worked out. */
function useHeight(open: Open, id: string, floor: Floor | null): number | null {
  const found = useQuery({
    queryKey: ['height', open.id, open.state.revision, id, floor],
    queryFn: async () => {
      const { point, normal } = floor as Floor;
      const [carried] = await open.work.preview({
        kind: 'set_down',
        ids: [id],
        floor: { point, normal },
        height: 0,
      });
      const [x, y, z] = [3, 7, 11].map((i) => carried?.matrix[i] ?? 0) as [number, number, number];
      return -(x * normal[0] + y * normal[1] + z * normal[2]) + 0;
    },
    enabled: floor !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return found.data ?? null;
}

function PlaceButtons({ actions, locked }: { actions: Actions; locked: boolean }) {
  const { set } = useEditor();
  const buttons: [string, string, () => void][] = [
    ['Set down', 'D: onto the floor', () => actions.setDown()],
    ['Seat …', 'E: onto a face of another part', () => set({ tool: 'seat' })],
    ['Centre', 'C: on the wheel', actions.centre],
    ['Mirror ↔', 'Alt+X: left to right, in place', () => actions.mirror('x')],
    ['Mirror ↕', 'Alt+Z: upside down, in place', () => actions.mirror('z')],
  ];
  return (
    <div className="buttons mt-2">
      {buttons.map(([word, title, run]) => (
        <button
          key={word}
          type="button"
          className="plain small"
          title={title}
          disabled={locked}
          onClick={run}
        >
          {word}
        </button>
      ))}
    </div>
  );
}

function TurnFields({ open, part }: { open: Open; part: Part }) {
  const now = part.place.rotation;
  return (
    <div className="section">
      <h3>Turn</h3>
      <div className="fields">
        {['about x', 'about y', 'about z'].map((label, i) => (
          <NumberField
            key={label}
            label={label}
            unit="°"
            value={now[i] as number}
            disabled={part.locked}
            onApply={(v) => {
              const rotation = now.map((r, k) => (k === i ? v : r)) as [number, number, number];
              setPart(open, [part.id], { place: { ...part.place, rotation } });
            }}
          />
        ))}
      </div>
    </div>
  );
}

/** How a part is shown and whether it counts. */
function Shown({ part, actions }: { part: Part; actions: Actions }) {
  const fields = [
    ['reference', 'reference only: shown, never printed'],
    ['hidden', 'hidden from the view'],
    ['locked', 'locked'],
  ] as const;
  return (
    <div className="section">
      <h3>Shown</h3>
      {fields.map(([field, word]) => (
        <label key={field} className="d-block">
          <input type="checkbox" checked={part[field]} onChange={() => actions.toggle(field)} /> {word}
        </label>
      ))}
    </div>
  );
}

function Glaze({ open, ids, colour }: { open: Open; ids: string[]; colour: string | null }) {
  return (
    <div className="section">
      <h3>
        Glaze
        {colour && (
          <button type="button" className="bare quiet" onClick={() => setPart(open, ids, { colour: null })}>
            wash off
          </button>
        )}
      </h3>
      <div className="glazes">
        {GLAZES.map((glaze) => (
          <button
            key={glaze.name}
            type="button"
            className="swatch"
            title={glaze.name}
            aria-label={glaze.name}
            aria-pressed={colour === glaze.colour}
            style={{ background: glaze.colour }}
            onClick={() => setPart(open, ids, { colour: glaze.colour })}
          />
        ))}
      </div>
    </div>
  );
}

function Several({ open, ids, actions }: { open: Open; ids: string[]; actions: Actions }) {
  const locked = ids.some((id) => open.known.get(id)?.part.locked);
  return (
    <>
      <div className="pad">
        <h2>{ids.length} parts</h2>
        <div className="quiet">{ids.map((id) => open.known.get(id)?.part.name).join(', ')}</div>
        <p className="quiet mt-2 mb-0">
          The first one picked is the body. Choose in the bar below the view how the others join it.
        </p>
      </div>
      <div className="section">
        <h3>Place</h3>
        <div className="buttons">
          <button
            type="button"
            className="plain small"
            title="N: into the one picked last"
            disabled={locked}
            onClick={actions.sink}
          >
            Sink in
          </button>
        </div>
        <PlaceButtons actions={actions} locked={locked} />
      </div>
      <LineUp open={open} ids={ids} locked={locked} actions={actions} />
      {ids.length === 2 && (
        <RoomFields
          names={ids.map((id) => open.known.get(id)?.part.name ?? '')}
          locked={locked}
          actions={actions}
        />
      )}
      <Glaze open={open} ids={ids} colour={null} />
      <div className="section buttons">
        <button type="button" className="plain small" title="Ctrl+G" onClick={() => void actions.group()}>
          Group
        </button>
        <button type="button" className="plain small" onClick={() => void actions.duplicate()}>
          Duplicate
        </button>
        <button type="button" className="plain small" onClick={() => void actions.remove()}>
          Remove
        </button>
      </div>
    </>
  );
}
