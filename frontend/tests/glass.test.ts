import { expect, test } from 'vitest';
import { knownParts } from '../src/controls/tree';
import { glazesOf, readColour } from '../src/make/card/ownGlazes';
import { glassOf } from '../src/viewport/glass';
import { drawable } from '../src/viewport/meshes';
import { part, piece } from './pieces';

test('colours are read as makers write them, and nothing else', () => {
  expect(['#C7A384', 'c7a384', ' #36C ', '36c'].map(readColour)).toEqual([
    '#c7a384',
    '#c7a384',
    '#3366cc',
    '#3366cc',
  ]);
  expect(['', '#', 'blue', '#12345', '#1234567', '#gggggg'].map(readColour)).toEqual(Array(6).fill(null));
});

test('the glazes of a piece are those that have no name, each once', () => {
  const known = knownParts(
    piece(part('a', { colour: '#123456' }), part('b', { colour: '#123456' }), part('c', { colour: null })),
  );
  expect(glazesOf(known)).toEqual(['#123456']);
});

test('a part in a glassy group is seen through by both, and drawn from its own corners', () => {
  const known = knownParts(piece(part('a'), part('g', { opacity: 0.5 }, [part('b', { opacity: 0.5 })])));
  expect(known.get('b')?.opacity).toBe(0.25);
  // Two triangles far from each other, one of each part.
  const vertices = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 10, 0, 0, 11, 0, 0, 10, 1, 0]);
  const skin = drawable({
    vertices,
    triangles: new Uint32Array([0, 1, 2, 3, 4, 5]),
    partOf: new Uint32Array([0, 1]),
  });
  const [only, ...more] = glassOf(skin, ['a', 'b'], known, new Set(), skin.geometry);
  expect(more).toEqual([]);
  expect(only).toMatchObject({ id: 'b', opacity: 0.25 });
  expect(only?.geometry.index?.count).toBe(3);
  expect(only?.geometry.boundingSphere?.center.x).toBeCloseTo(10.5);
  expect(glassOf(skin, ['a', 'b'], known, new Set(['b']), skin.geometry)).toEqual([]);
});
