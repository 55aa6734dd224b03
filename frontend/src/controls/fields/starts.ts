/** What can be said of a field from its kind alone: its axes, and with what it begins. */
import type { FieldKind, FieldSpec } from '../../api/client';

export type Values = Record<string, unknown>;

type PointsKind = Extract<FieldKind, { kind: 'plane_points' | 'space_points' }>;

/** What the numbers of each point are. */
export const axesOf = (field: PointsKind): string[] =>
  field.kind === 'plane_points' ? ['x', 'y'] : ['x', 'y', 'z', ...(field.radii ? ['radius'] : [])];

/** The values with which a record begins. */
export const defaultsOf = (fields: FieldSpec[]): Values =>
  Object.fromEntries(fields.map((f) => [f.name, f.default]));

/** With what a record, points or several numbers begin; null for what is one value. */
export function startOf(field: FieldKind): unknown {
  switch (field.kind) {
    case 'record':
      return defaultsOf(field.fields);
    case 'vector':
      return field.labels.map(() => 0);
    case 'plane_points':
    case 'space_points':
      return Array.from({ length: field.least ?? 2 }, (_, n) =>
        axesOf(field).map((_axis, k) => (k ? 1 : 10 * n)),
      );
    case 'plane_loops':
    case 'numbers':
      return [];
    default:
      return null;
  }
}

/** Whether a field is shown as a switch, with fields of its own under it: it stands by itself. */
export const isSwitch = ({ field }: FieldSpec): boolean =>
  field.kind === 'record' && field.fields[0]?.field.kind === 'choice';
