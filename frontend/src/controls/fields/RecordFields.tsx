/** The fields of a record, as the catalogue lists them: own fields of a form, a shape change's, those of copies. */
import type { Either, FieldSpec } from '../../api/client';
import { FieldOf } from './FieldOf';
import { isSwitch, startOf, type Values } from './starts';

type Props = {
  fields: FieldSpec[];
  /** Two fields of which exactly one is given. */
  either: Either | null;
  values: Values;
  disabled?: boolean;
  /** Takes the values that change. */
  onSet: (changed: Values) => void;
};

export function RecordFields({ fields, either, values, disabled, onSet }: Props) {
  const other = Object.keys(either?.starts ?? {}).find((name) => (values[name] ?? null) === null);
  return (
    <>
      {fields
        .filter((spec) => spec.name !== other && isShown(spec, values))
        .map((spec) => (
          <Optional key={spec.name} spec={spec} values={values} disabled={disabled} onSet={onSet} />
        ))}
      {either && other && (
        <button
          type="button"
          className="plain small full-turn"
          disabled={disabled}
          onClick={() =>
            onSet(
              Object.fromEntries(Object.entries(either.starts).map(([n, v]) => [n, n === other ? v : null])),
            )
          }
        >
          {either.words[other]}
        </button>
      )}
    </>
  );
}

/** A field, and where it may be left out the buttons to begin it and to leave it out. */
function Optional({ spec, values, disabled, onSet }: Omit<Props, 'fields' | 'either'> & { spec: FieldSpec }) {
  const { name, title, description, optional, shown } = spec;
  const value = values[name] ?? null;
  const button = (word: string, changed: Values) => (
    <button
      type="button"
      className="plain small full-turn"
      title={description || title}
      disabled={disabled}
      onClick={() => onSet(changed)}
    >
      {word}
    </button>
  );
  const start = shown.start ?? {};
  if (optional && value === null && shown.add) return button(shown.add, start);
  // What has several numbers cannot be begun by typing one.
  const begun = optional && value === null && !isSwitch(spec) ? startOf(spec.field) : null;
  if (begun !== null) return button(`+ ${title.toLowerCase()}`, { [name]: begun });
  return (
    <>
      <FieldOf spec={spec} value={value} disabled={disabled} onApply={(v) => onSet({ [name]: v })} />
      {optional && value !== null && shown.drop && button(shown.drop, { [name]: null })}
    </>
  );
}

/** Not those that go with another choice. */
function isShown({ shown }: FieldSpec, values: Values): boolean {
  return Object.entries(shown.only_when ?? {}).every(([name, allowed]) => allowed.includes(values[name]));
}
