/** Values of fields with all lengths in them scaled; counts, angles and shares stay. */
import type { FieldKind, FieldSpec } from '../../api/client';
import type { Values } from './starts';

export function scaledLengths(values: Values, fields: FieldSpec[], factor: number, digits = 12): Values {
  const found = { ...values };
  for (const { name, field } of fields)
    if (found[name] !== null && found[name] !== undefined)
      found[name] = scaled(found[name], field, factor, digits);
  return found;
}

function scaled(value: unknown, field: FieldKind, factor: number, digits: number): unknown {
  const tidy = (v: number) => Number((v * factor).toPrecision(digits));
  switch (field.kind) {
    case 'number':
      return field.unit === 'mm' ? tidy(value as number) : value;
    case 'vector':
      return (value as number[]).map((v) => scaled(v, field.of, factor, digits));
    case 'plane_points':
    case 'space_points':
      return (value as number[][]).map((p) => p.map(tidy));
    case 'plane_loops':
      return (value as number[][][]).map((l) => l.map((p) => p.map(tidy)));
    case 'numbers':
      return field.unit === 'mm' ? (value as number[]).map(tidy) : value;
    case 'record':
      return scaledLengths(value as Values, field.fields, factor, digits);
    default:
      return value;
  }
}
