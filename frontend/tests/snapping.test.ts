import { expect, test } from 'vitest';
import { knownParts } from '../src/controls/tree';
import { Snapper } from '../src/viewport/snapping';
import { part, piece, scene } from './pieces';

const known = knownParts(piece(part('still'), part('cutter', { op: 'difference' }), part('mine')));
const SCENE = scene({ still: [40, 3, 5], cutter: [22, 0, 5], mine: [0, 0, 5] });
const snapper = new Snapper(SCENE, known, new Set(['mine']), ['mine']);
const ALL: [boolean, boolean, boolean] = [true, true, true];

test('a side comes flush with a side that is near enough, and the line says which', () => {
  const { by, snaps } = snapper.caught([29.7, 20, 30], ALL, 0.5);
  expect(by).toEqual([30, 20, 30]);
  expect(snaps.map((s) => s.words)).toEqual(['left side of still']);
});

test('middles meet middles only, and what is too far does not catch', () => {
  expect(snapper.caught([60, 2.8, 30], ALL, 0.5).by).toEqual([60, 3, 30]);
  expect(snapper.caught([60, 2.4, 30], ALL, 0.5).by).toEqual([60, 2.4, 30]);
});

test('cutters, axes that are not free, and what is dragged itself catch nothing', () => {
  expect(snapper.caught([12.1, 20, 30], ALL, 0.5).by[0]).toBe(12.1);
  expect(snapper.caught([29.7, 20, 30], [false, true, true], 0.5).by[0]).toBe(29.7);
});

test('the wheel catches a foot', () => {
  expect(snapper.caught([60, 20, 0.3], ALL, 0.5).by[2]).toBe(0);
});
