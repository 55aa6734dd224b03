/** All of one part: its name, how it enters, size, place, turn, its own fields, changes, glaze and copies. */
import { usePrimitives } from '../../api/pieces';
import { NameField } from '../../controls/NameField';
import type { Open } from '../../controls/PieceFrame';
import { bodyOf } from '../../controls/tree';
import type { Actions } from '../actions';
import type { Live } from '../useDragContext';
import { BlendFields } from './BlendFields';
import { CopiesFields } from './CopiesFields';
import { CutterFields } from './CutterFields';
import { Drawer } from './Drawer';
import { DrawnFields } from './DrawnFields';
import { Enters } from './Enters';
import { Glaze } from './Glaze';
import { MarksNote } from './MarksNote';
import { OwnFields } from './OwnFields';
import { PlaceFields } from './PlaceFields';
import { ShapeChanges } from './ShapeChanges';
import { Shown } from './Shown';
import { SizeFields } from './SizeFields';
import { setPart } from './setPart';
import { TurnFields } from './TurnFields';

type Props = { open: Open; actions: Actions; live: Live };

export function OnePart({ open, id, actions, live }: Props & { id: string }) {
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
      <DrawnFields open={open} part={part} />
      {part.primitive && <OwnFields open={open} part={part} />}
      <BlendFields open={open} part={part} live={live} />
      <ShapeChanges open={open} part={part} />
      <Glaze open={open} ids={[id]} colour={part.colour ?? null} opacity={part.opacity} />
      <CopiesFields open={open} part={part} actions={actions} />
      <CutterFields part={part} isBody={bodyOf(open.state.piece, known)?.id === part.id} actions={actions} />
      <Drawer open={open} ids={[id]} actions={actions} />
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
