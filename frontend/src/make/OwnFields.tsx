/** A primitive's own fields, as the catalogue lists them. */
import type { FieldInfo, Part, Primitive } from '../api/client';
import { usePrimitives } from '../api/pieces';
import { NumberField } from '../controls/NumberField';
import type { Open } from '../controls/PieceFrame';
import { bodyOf } from '../controls/tree';

type Values = Record<string, unknown>;
type Edge = { kind: 'chamfer' | 'fillet'; size: number; segments: number };

export function OwnFields({ open, part }: { open: Open; part: Part }) {
  const info = usePrimitives().data?.find((p) => p.kind === part.primitive?.kind);
  if (!info) return null;
  const values = part.primitive as unknown as Values;
  const set = (changes: Values) =>
    void open.work.edit({
      kind: 'set_primitive',
      id: part.id,
      primitive: { ...values, ...changes } as unknown as Primitive,
    });
  const numbers = info.fields.filter(
    (f) => f.kind === 'number' || (f.kind === 'whole' && !/facets/.test(f.name)),
  );
  const rounds = info.fields.filter((f) => /facets/.test(f.name));
  const section = (title: React.ReactNode, fields: FieldInfo[]) =>
    fields.length > 0 && (
      <div className="section">
        <h3>{title}</h3>
        <div className="fields">
          {fields.map((field) => (
            <Own
              key={field.name}
              field={field}
              value={values[field.name] as number}
              locked={part.locked}
              onApply={(v) => set({ [field.name]: v })}
            />
          ))}
        </div>
      </div>
    );
  const body = bodyBeside(open, part);
  return (
    <>
      {section(info.label, numbers)}
      {section('Roundness', rounds)}
      {rounds.length > 0 && (
        <div className="section joined">
          <div className="fields">
            <NumberField
              label="Off by"
              title="how far the flat sides are off the true curve at most"
              value={Number(offTrue(values).toPrecision(3))}
              least={0.0001}
              disabled={part.locked}
              onApply={(off) => set({ facets: sidesFor(values, off) })}
            />
            {body && (
              <button
                type="button"
                className="plain small"
                aria-pressed={part.follows_body ?? false}
                disabled={part.locked}
                title={`stays as near to the true curve as ${body.name}, also when that changes`}
                onClick={() =>
                  void open.work.edit({
                    kind: 'set_part',
                    ids: [part.id],
                    fields: { follows_body: !part.follows_body },
                  })
                }
              >
                {part.follows_body ? `Follows ${body.name}` : `Follow ${body.name}`}
              </button>
            )}
          </div>
        </div>
      )}
      {info.fields.some((f) => f.kind === 'edge') && (
        <EdgeFields
          edge={(values.edge as Edge | null) ?? null}
          locked={part.locked}
          onSet={(edge) => set({ edge })}
        />
      )}
    </>
  );
}

function Own({
  field,
  value,
  locked,
  onApply,
}: {
  field: FieldInfo;
  value: number;
  locked: boolean;
  onApply: (v: number) => void;
}) {
  return (
    <NumberField
      label={field.title}
      title={field.description}
      value={value}
      least={field.least ?? undefined}
      most={field.most ?? undefined}
      wholeNumber={field.kind === 'whole'}
      disabled={locked}
      onApply={onApply}
    />
  );
}

/** The body of the part's list, if it is another round primitive. */
function bodyBeside(open: Open, part: Part): Part | null {
  const known = open.known.get(part.id);
  const body = known && bodyOf(open.state.piece, known);
  return body && body.id !== part.id && 'facets' in (body.primitive ?? {}) ? body : null;
}

/** The fewest sides whose circle is no further off the true curve. */
function sidesFor(values: Values, off: number): number {
  const radius = widest(values);
  const sides = Math.ceil(Math.PI / Math.acos(Math.max(-1, 1 - off / radius)));
  return Math.min(512, Math.max(3, sides));
}

/** How far the flat sides of the widest circle are off the true curve, mm. */
function offTrue(values: Values): number {
  return widest(values) * (1 - Math.cos(Math.PI / Number(values.facets ?? 64)));
}

function widest(values: Values): number {
  const radii = [
    values.radius,
    values.bottom_radius,
    values.top_radius,
    Number(values.width ?? 0) / 2,
    ...((values.radii as number[]) ?? []),
  ];
  return Math.max(
    ...radii.map((r) => (typeof r === 'number' ? r : 0)),
    Number(values.ring_radius ?? 0) + Number(values.tube_radius ?? 0),
  );
}

function EdgeFields({
  edge,
  locked,
  onSet,
}: {
  edge: Edge | null;
  locked: boolean;
  onSet: (edge: Edge | null) => void;
}) {
  const kinds = [
    { kind: null, label: 'sharp' },
    { kind: 'chamfer', label: 'chamfer' },
    { kind: 'fillet', label: 'fillet' },
  ] as const;
  return (
    <div className="section">
      <h3>Edges</h3>
      <fieldset className="switch" aria-label="Edges" disabled={locked}>
        {kinds.map(({ kind, label }) => (
          <button
            key={label}
            type="button"
            aria-pressed={(edge?.kind ?? null) === kind}
            onClick={() => onSet(kind && { kind, size: edge?.size ?? 1, segments: edge?.segments ?? 8 })}
          >
            {label}
          </button>
        ))}
      </fieldset>
      {edge && (
        <div className="fields mt-2">
          <NumberField
            label="Edge size"
            value={edge.size}
            least={0.001}
            disabled={locked}
            onApply={(size) => onSet({ ...edge, size })}
          />
          {edge.kind === 'fillet' && (
            <NumberField
              label="Steps"
              value={edge.segments}
              least={1}
              most={64}
              wholeNumber
              disabled={locked}
              onApply={(segments) => onSet({ ...edge, segments })}
            />
          )}
        </div>
      )}
    </div>
  );
}
