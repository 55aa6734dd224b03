/** A whole form as a field, of any kind, with its own fields: what a stud is. */
import type { FieldSpec, Primitive, PrimitiveInfo } from '../../api/client';
import { usePrimitives } from '../../api/pieces';
import { ChoiceField } from './ChoiceField';
import { RecordFields } from './RecordFields';
import { scaledLengths } from './scaled';
import type { Values } from './starts';

/** How much smaller than one on the wheel a form is that stands on another, and how many sides it then needs. */
const SMALL = { share: 1 / 6, sides: 16 };

const NONE = '–';

type Props = {
  label: string;
  value: Primitive | null;
  /** The word for none, where it may be left out. */
  none?: string;
  disabled?: boolean;
  onApply: (value: Primitive | null) => void;
};

export function FormField({ label, value, none, disabled, onApply }: Props) {
  const kinds = usePrimitives().data ?? [];
  const info = kinds.find((k) => k.kind === value?.kind);
  const values = value as unknown as Values;
  return (
    <>
      <ChoiceField
        label={label}
        value={value?.kind ?? NONE}
        disabled={disabled}
        options={[
          ...(none ? [{ value: NONE, word: none }] : []),
          ...kinds.map((k) => ({ value: k.kind, word: k.label })),
        ]}
        onApply={(kind) => onApply(kind === NONE ? null : small(kinds.find((k) => k.kind === kind)))}
      />
      {info && (
        <RecordFields
          fields={info.fields}
          either={info.either}
          values={values}
          disabled={disabled}
          onSet={(changed) => onApply({ ...values, ...changed } as unknown as Primitive)}
        />
      )}
    </>
  );
}

/** A new form as it is put on another. */
function small(info: PrimitiveInfo | undefined): Primitive {
  const found = scaledLengths(info?.sample ?? {}, info?.fields ?? [], SMALL.share);
  const sides = (info?.fields ?? []).filter((f: FieldSpec) => f.shown.group === 'roundness');
  for (const { name } of sides) found[name] = SMALL.sides;
  return found as unknown as Primitive;
}
