/** A record as a field. One that begins with a choice shows it as a switch, with the word for none first. */
import type { FieldSpec } from '../../api/client';
import { RecordFields } from './RecordFields';
import { defaultsOf, type Values } from './starts';

type Props = {
  spec: FieldSpec;
  value: Values | null;
  disabled?: boolean;
  onApply: (value: Values | null) => void;
};

export function RecordField({ spec, value, disabled, onApply }: Props) {
  if (spec.field.kind !== 'record') return null;
  const { fields } = spec.field;
  const inner = (leaving: string[] = []) =>
    value && (
      <RecordFields
        fields={fields.filter((f) => !leaving.includes(f.name))}
        either={null}
        values={value}
        disabled={disabled}
        onSet={(changed) => onApply({ ...value, ...changed })}
      />
    );
  const choice = fields[0];
  if (choice?.field.kind !== 'choice') return inner();
  const begun = (spec.shown.start?.[spec.name] as Values | undefined) ?? defaultsOf(fields);
  const options = [
    ...(spec.optional ? [{ value: null, word: spec.shown.none || 'none' }] : []),
    ...choice.field.options,
  ];
  return (
    <>
      <fieldset className="switch" aria-label={spec.title} disabled={disabled}>
        {options.map((option) => (
          <button
            key={option.word}
            type="button"
            aria-pressed={(value?.[choice.name] ?? null) === option.value}
            onClick={() =>
              onApply(option.value === null ? null : { ...begun, ...value, [choice.name]: option.value })
            }
          >
            {option.word}
          </button>
        ))}
      </fieldset>
      {value && <div className="fields mt-2">{inner([choice.name])}</div>}
    </>
  );
}
