import { expect, test } from 'vitest';
import { knownParts } from '../src/controls/tree';
import { pulledApart, unitsOf } from '../src/viewport/apart';
import { part, piece, scene } from './pieces';

const CLUSTER = {
  body: [0, 0, 0],
  arm: [6, 0, 1],
  hat: [1, 0, 8],
  inner: [0, 0, 0],
  foot: [0, 1, -6],
} as const;

const boxesOf = (middles: Record<string, readonly number[]>) =>
  scene(
    Object.fromEntries(Object.entries(middles).map(([id, at]) => [id, [...at] as [number, number, number]])),
  );

test('nothing overlaps when pulled apart, and the first stays', () => {
  const known = knownParts(piece(...Object.keys(CLUSTER).map((id) => part(id))));
  const units = unitsOf(boxesOf(CLUSTER), known, null);
  expect(units.map((u) => u.number)).toEqual(['1', '2', '3', '4', '5']);
  const by = pulledApart(units);
  const raised = by.get('body')?.z as number;
  expect(by.get('body')?.toArray()).toEqual([0, 0, raised]);
  const boxes = units.map((u) => u.box.clone().translate(by.get(u.id) as never));
  for (const [i, one] of boxes.entries())
    for (const other of boxes.slice(i + 1)) expect(one.intersectsBox(other)).toBe(false);
  expect(by.get('arm')?.x).toBeGreaterThan(0);
  expect(by.get('hat')?.z).toBeGreaterThan(raised);
  expect(by.get('foot')?.z).toBeLessThan(raised);
  expect(Math.min(...boxes.map((box) => box.min.z))).toBeCloseTo(-11, 6);
});

test('groups go as one until they are gone into', () => {
  const known = knownParts(
    piece(part('body'), part('g', {}, [part('arm'), part('inner', {}, [part('hat')])])),
  );
  const middles = boxesOf({ body: [0, 0, 0], arm: [20, 0, 0], hat: [26, 0, 0] });
  expect(unitsOf(middles, known, null).map((u) => [u.id, u.number, u.leaves])).toEqual([
    ['body', '1', ['body']],
    ['g', '2', ['arm', 'hat']],
  ]);
  expect(unitsOf(middles, known, 'g').map((u) => [u.id, u.number])).toEqual([
    ['body', '1'],
    ['arm', '2.1'],
    ['inner', '2.2'],
  ]);
  expect(unitsOf(middles, known, 'inner').map((u) => u.number)).toEqual(['1', '2.1', '2.2.1']);
});

test('of very many each goes out from the middle', () => {
  const middles = Object.fromEntries(Array.from({ length: 400 }, (_, i) => [`p${i}`, [i, 0, 0] as const]));
  const known = knownParts(piece(...Object.keys(middles).map((id) => part(id))));
  const by = pulledApart(unitsOf(boxesOf(middles), known, null));
  expect(by.get('p399')?.x).toBeCloseTo(399);
  expect(pulledApart([]).size).toBe(0);
});
