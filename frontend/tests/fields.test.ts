import { expect, test } from 'vitest';
import type { FieldSpec } from '../src/api/client';
import { scaledLengths } from '../src/controls/fields/scaled';
import { readSum } from '../src/controls/fields/useTyped';

const spec = (name: string, field: unknown): FieldSpec => ({ name, field }) as FieldSpec;
const MM = { kind: 'number', unit: 'mm' };

test('lengths are scaled wherever they are; angles, counts and shares stay', () => {
  const fields = [
    spec('radius', MM),
    spec('size', { kind: 'vector', of: MM, labels: ['x', 'y'] }),
    spec('turn', { kind: 'angle' }),
    spec('count', { kind: 'count' }),
    spec('share', { kind: 'number', unit: '' }),
    spec('edge', { kind: 'record', fields: [spec('size', MM), spec('segments', { kind: 'count' })] }),
    spec('spine', { kind: 'space_points', radii: true }),
    spec('none', MM),
  ];
  const values = {
    radius: 12,
    size: [6, 3],
    turn: 90,
    count: 6,
    share: 0.5,
    edge: { size: 1.5, segments: 8 },
    spine: [[0, 0, 6, 3]],
    none: null,
  };
  expect(scaledLengths(values, fields, 1 / 6)).toEqual({
    ...values,
    radius: 2,
    size: [1, 0.5],
    edge: { size: 0.25, segments: 8 },
    spine: [[0, 0, 1, 0.5]],
  });
  expect(scaledLengths({ radius: 1 }, fields, 1 / 3, 2)).toEqual({ radius: 0.33 });
});

test('a plain number never leaves the page', async () => {
  expect(await Promise.all(['12', ' -1,5 ', '0.25'].map(readSum))).toEqual([12, -1.5, 0.25]);
});
