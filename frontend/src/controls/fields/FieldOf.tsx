/** One field of a form, shape change or way of copying: a component for each kind of field there is. */
import type { FieldSpec, Primitive } from '../../api/client';
import { ChoiceField } from './ChoiceField';
import { FileField } from './FileField';
import { FlagField } from './FlagField';
import { FormField } from './FormField';
import { NumberField } from './NumberField';
import { NumbersField } from './NumbersField';
import { PointsField } from './PointsField';
import { RecordField } from './RecordField';
import { axesOf, type Values } from './starts';
import { TextField } from './TextField';

const NONE = '–';

type Props = { spec: FieldSpec; value: unknown; disabled?: boolean; onApply: (value: unknown) => void };

export function FieldOf({ spec, value, disabled, onApply }: Props) {
  const { field, title, description, optional, shown } = spec;
  const common = { label: title, title: description, disabled, onApply };
  switch (field.kind) {
    case 'number':
    case 'count':
    case 'angle':
      return (
        <NumberField
          {...common}
          value={value as number | null}
          unit={field.kind === 'angle' ? '°' : field.kind === 'number' ? field.unit : undefined}
          least={field.least ?? undefined}
          most={field.most ?? undefined}
          above={field.kind === 'number' ? (field.above ?? undefined) : undefined}
          wholeNumber={field.kind === 'count'}
          none={optional ? shown.none || 'none' : undefined}
          onLeaveOut={optional ? () => onApply(null) : undefined}
        />
      );
    case 'vector': {
      const values = value as number[];
      return field.labels.map((label, i) => (
        <FieldOf
          key={label}
          spec={{ ...spec, title: label.length > 1 ? capital(label) : `${title} ${label}`, field: field.of }}
          value={values[i]}
          disabled={disabled}
          onApply={(v) => onApply(values.map((w, k) => (k === i ? v : w)))}
        />
      ));
    }
    case 'text':
      return (
        <TextField
          {...common}
          value={(value as string) ?? ''}
          longest={field.longest ?? undefined}
          lines={field.lines}
        />
      );
    case 'choice':
      return (
        <ChoiceField
          {...common}
          value={(value as string | null) ?? NONE}
          options={[...(optional ? [{ value: NONE, word: shown.none || 'none' }] : []), ...field.options]}
          onApply={(v) => onApply(v === NONE ? null : v)}
        />
      );
    case 'flag':
      return <FlagField {...common} value={(value as boolean) ?? false} />;
    case 'plane_points':
    case 'space_points':
      return (
        <PointsField
          axes={axesOf(field)}
          value={(value as number[][]) ?? []}
          least={field.least ?? 1}
          most={field.most ?? undefined}
          disabled={disabled}
          onApply={onApply}
        />
      );
    case 'plane_loops': {
      const loops = (value as number[][][]) ?? [];
      return (
        <>
          {loops.map((loop, n) => (
            <PointsField
              // biome-ignore lint/suspicious/noArrayIndexKey: a loop has no other name than its number
              key={n}
              axes={['x', 'y']}
              value={loop}
              least={3}
              disabled={disabled}
              onApply={(changed) => onApply(loops.map((l, m) => (m === n ? changed : l)))}
            />
          ))}
        </>
      );
    }
    case 'numbers':
      return <NumbersField {...common} value={(value as number[]) ?? []} />;
    case 'file':
      return <FileField {...common} value={(value as string) ?? ''} accepts={field.accepts} />;
    case 'record':
      return <RecordField spec={spec} value={value as Values | null} disabled={disabled} onApply={onApply} />;
    case 'form':
      return (
        <FormField
          label={title}
          value={value as Primitive | null}
          none={optional ? shown.none || 'none' : undefined}
          disabled={disabled}
          onApply={onApply}
        />
      );
  }
}

const capital = (word: string) => word[0]?.toUpperCase() + word.slice(1);
