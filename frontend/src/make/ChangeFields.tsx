/** The fields of one shape change, as the catalogue lists them. */
import type { ChangeInfo, FieldInfo, Primitive, ShapeChange } from '../api/client';
import { usePrimitives } from '../api/pieces';
import { ChoiceField, SIDE_WORDS } from '../controls/ChoiceField';
import { NumberField } from '../controls/NumberField';

type Values = Record<string, unknown>;
type Props = {
  info: ChangeInfo;
  change: ShapeChange;
  locked: boolean;
  triangles: number;
  onSet: (change: ShapeChange) => void;
};

const NONE = '–';
const WAYS: Record<string, string> = {
  finer: 'only finer',
  rounder: 'rounder',
  quads: 'rounder, by faces',
};

export function ChangeFields({ info, change, locked, triangles, onSet }: Props) {
  const values = change as unknown as Values;
  const set = (more: Values) => onSet({ ...values, ...more } as unknown as ShapeChange);
  const one = (field: FieldInfo) => {
    const value = values[field.name] ?? null;
    switch (field.kind) {
      case 'choice':
        return (
          <ChoiceField
            key={field.name}
            label={field.title}
            title={field.description}
            value={(value as string) ?? NONE}
            disabled={locked}
            options={[...(field.optional ? [NONE] : []), ...field.options].map((o) => ({
              value: o,
              word: o === NONE ? 'none' : (SIDE_WORDS[o] ?? WAYS[o] ?? o),
            }))}
            onApply={(v) => set({ [field.name]: v === NONE ? null : v })}
          />
        );
      case 'drain':
        return <DrainFields key={field.name} drain={value as Drain | null} locked={locked} onSet={set} />;
      case 'stud':
        return <StudFields key={field.name} stud={value as Primitive} locked={locked} onSet={set} />;
      default:
        if (field.name === 'rings' && value === null) return <AddRings key="rings" onSet={set} />;
        if (value === null && field.name !== 'fineness') return null;
        return (
          <NumberField
            key={field.name}
            label={field.title}
            title={value === null ? 'how fine the lattice is; by itself until you set it' : field.description}
            value={(value as number | null) ?? usualFineness(values)}
            unit={field.unit}
            least={field.least ?? undefined}
            most={field.most ?? undefined}
            wholeNumber={field.kind === 'whole'}
            disabled={locked}
            onApply={(v) => set({ [field.name]: v })}
          />
        );
    }
  };
  return (
    <>
      <div className="fields">{info.fields.map(one)}</div>
      {info.kind === 'subdivide' && (
        <p className="quiet mb-0">
          One step more makes about four times as many triangles; the piece has{' '}
          {triangles.toLocaleString('en')}.
        </p>
      )}
      {info.kind === 'simplify' && (
        <button
          type="button"
          className="bare"
          disabled={locked}
          onClick={() =>
            set(values.count === null ? { count: 2000, tolerance: null } : { count: null, tolerance: 0.05 })
          }
        >
          {values.count === null ? 'to a count instead' : 'to a tolerance instead'}
        </button>
      )}
      {info.kind === 'studs' && values.rings !== null && (
        <button type="button" className="plain small" disabled={locked} onClick={() => set({ rings: null })}>
          Scattered
        </button>
      )}
    </>
  );
}

/** About what is taken where no fineness is set. */
function usualFineness(values: Values): number {
  const { radius, wall, by } = values as Partial<Record<string, number>>;
  return Number((radius !== undefined ? radius / 4 : Math.abs(wall ?? by ?? 1) / 3).toFixed(3));
}

function AddRings({ onSet }: { onSet: (more: Values) => void }) {
  return (
    <button
      type="button"
      className="plain small"
      title="in rings about the axis instead of scattered"
      onClick={() => onSet({ rings: 4, count: 10 })}
    >
      In rings
    </button>
  );
}

type Drain = { count: number; diameter: number };

function DrainFields({
  drain,
  locked,
  onSet,
}: {
  drain: Drain | null;
  locked: boolean;
  onSet: (more: Values) => void;
}) {
  if (!drain)
    return (
      <button
        type="button"
        className="bare"
        disabled={locked}
        onClick={() => onSet({ drain: { count: 1, diameter: 3 } })}
      >
        + drain hole
      </button>
    );
  return (
    <>
      <NumberField
        label="Drain holes"
        title="0 takes them away"
        value={drain.count}
        least={0}
        most={24}
        wholeNumber
        disabled={locked}
        onApply={(count) => onSet({ drain: count ? { ...drain, count } : null })}
      />
      <NumberField
        label="Hole width"
        value={drain.diameter}
        least={0.1}
        disabled={locked}
        onApply={(diameter) => onSet({ drain: { ...drain, diameter } })}
      />
    </>
  );
}

/** What a stud is: a primitive, its lengths and sides. */
function StudFields({
  stud,
  locked,
  onSet,
}: {
  stud: Primitive;
  locked: boolean;
  onSet: (more: Values) => void;
}) {
  const kinds = usePrimitives().data ?? [];
  const info = kinds.find((k) => k.kind === stud.kind);
  const values = stud as unknown as Values;
  const small = (kind: string) => {
    const sample = { ...(kinds.find((k) => k.kind === kind)?.sample ?? {}) } as Values;
    for (const [name, value] of Object.entries(sample)) {
      if (/facets/.test(name)) sample[name] = 16;
      else if (typeof value === 'number' && !/sides|points|bias/.test(name)) sample[name] = value / 6;
      else if (Array.isArray(value)) sample[name] = value.map((v) => v / 6);
    }
    return sample;
  };
  return (
    <>
      <ChoiceField
        label="Stud"
        value={stud.kind}
        disabled={locked}
        options={kinds.map((k) => ({ value: k.kind, word: k.label }))}
        onApply={(kind) => onSet({ stud: small(kind) })}
      />
      {info?.fields
        .filter((f) => f.kind === 'number' || f.kind === 'whole')
        .map((f) => (
          <NumberField
            key={f.name}
            label={f.title}
            value={values[f.name] as number}
            least={f.least ?? undefined}
            most={f.most ?? undefined}
            wholeNumber={f.kind === 'whole'}
            disabled={locked}
            onApply={(v) => onSet({ stud: { ...values, [f.name]: v } })}
          />
        ))}
    </>
  );
}
