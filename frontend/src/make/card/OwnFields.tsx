/** A form's own fields, as the catalogue lists them; what its size says is above. */
import type { FieldSpec, Part, Primitive, PrimitiveInfo } from '../../api/client';
import { usePrimitives } from '../../api/pieces';
import { NumberField } from '../../controls/fields/NumberField';
import { RecordFields } from '../../controls/fields/RecordFields';
import { isSwitch, type Values } from '../../controls/fields/starts';
import type { Open } from '../../controls/PieceFrame';
import { bodyOf } from '../../controls/tree';
import { setPart } from './setPart';

export function OwnFields({ open, part }: { open: Open; part: Part }) {
  const primitives = usePrimitives().data;
  const info = primitives?.find((p) => p.kind === part.primitive?.kind);
  if (!info) return null;
  const values = part.primitive as unknown as Values;
  const set = (changed: Values) =>
    void open.work.edit({
      kind: 'set_primitive',
      id: part.id,
      primitive: { ...values, ...changed } as unknown as Primitive,
    });
  const record = (fields: FieldSpec[], either = info.either) => (
    <RecordFields fields={fields} either={either} values={values} disabled={part.locked} onSet={set} />
  );
  const plain = info.fields.filter((f) => f.shown.group === '' && !isSwitch(f));
  const rounds = info.fields.filter((f) => f.shown.group === 'roundness');
  return (
    <>
      {plain.length > 0 && (
        <div className="section">
          <h3>{info.label}</h3>
          <div className="fields">{record(plain)}</div>
        </div>
      )}
      {rounds.length > 0 && (
        <div className="section">
          <h3>Roundness</h3>
          <div className="fields">{record(rounds, null)}</div>
        </div>
      )}
      {info.round && <Roundness open={open} part={part} primitives={primitives ?? []} />}
      {info.fields.filter(isSwitch).map((field) => (
        <div key={field.name} className="section">
          <h3>{field.title}</h3>
          {record([field], null)}
        </div>
      ))}
    </>
  );
}

/** How near the flat sides are to the true curve, in mm; and whether that follows the body of the list. */
function Roundness({ open, part, primitives }: { open: Open; part: Part; primitives: PrimitiveInfo[] }) {
  const error = open.state.scene?.parts.find((p) => p.id === part.id)?.chord_error ?? null;
  const body = bodyBeside(open, part, primitives);
  return (
    <div className="section joined">
      <div className="fields">
        <NumberField
          label="Off by"
          title="how far the flat sides are off the true curve at most"
          value={error === null ? null : Number(error.toPrecision(3))}
          least={0.0001}
          disabled={part.locked || error === null}
          onApply={(most) => void open.work.edit({ kind: 'set_chord_error', id: part.id, most })}
        />
        {body && (
          <button
            type="button"
            className="plain small"
            aria-pressed={part.follows_body ?? false}
            disabled={part.locked}
            title={`stays as near to the true curve as ${body.name}, also when that changes`}
            onClick={() => setPart(open, [part.id], { follows_body: !part.follows_body })}
          >
            {part.follows_body ? `Follows ${body.name}` : `Follow ${body.name}`}
          </button>
        )}
      </div>
    </div>
  );
}

/** The body of the part's list, if it is another round form. */
function bodyBeside(open: Open, part: Part, primitives: PrimitiveInfo[]): Part | null {
  const known = open.known.get(part.id);
  const body = known && bodyOf(open.state.piece, known);
  const round = primitives.find((p) => p.kind === body?.primitive?.kind)?.round;
  return body && body.id !== part.id && round ? body : null;
}
