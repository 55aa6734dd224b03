import { expect, test } from 'vitest';
import { drawable } from '../src/viewport/meshes';
import { colouredBy, colouredCorners, gradientOf, type Scale, shareOf } from '../src/viewport/scalarMap';

const SCALE: Scale = { from: '#000000', to: '#ffffff', least: 1, most: 5, curve: 'straight' };
const MESH = drawable({
  vertices: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0]),
  triangles: new Uint32Array([0, 1, 2, 1, 3, 2]),
  partOf: null,
});
const reds = (values: number[]) =>
  [...(colouredBy(MESH, new Float32Array(values), SCALE).getAttribute('color').array as Float32Array)]
    .filter((_, i) => i % 3 === 0)
    .map((v) => Number(v.toFixed(3)));

test('a value is told by how far it is from the least to the most, and no further', () => {
  expect([0, 1, 2, 5, 9].map((v) => shareOf(SCALE, v))).toEqual([0, 0, 0.25, 1, 1]);
  expect(shareOf({ ...SCALE, curve: 'root' }, 2)).toBe(0.5);
  expect(shareOf({ ...SCALE, most: 1 }, 1)).toBe(0);
});

test('a value a triangle colours its three corners, a value a vertex runs between them', () => {
  expect(reds([1, 5])).toEqual([0, 0, 0, 1, 1, 1]);
  expect(reds([1, 5, 3, 1])).toEqual([0, 1, 0.5, 1, 0, 0.5]);
});

test('the corners of coarser triangles have the mean colour of those that are there', () => {
  const corners = colouredCorners(MESH, colouredBy(MESH, new Float32Array([1, 5]), SCALE));
  const red = [...MESH.vertexOf.keys()].map((corner) =>
    Number(corners.getAttribute('color').getX(corner).toFixed(3)),
  );
  expect(corners.getAttribute('position').count).toBe(MESH.vertexOf.length);
  expect(red.map((value, corner) => [MESH.vertexOf[corner], value]).sort()).toEqual([
    [0, 0],
    [1, 0.5],
    [2, 0.5],
    [3, 1],
  ]);
});

test('the legend runs from one colour to the other', () => {
  expect(gradientOf(SCALE)).toMatch(
    /^linear-gradient\(90deg, color-mix\(in srgb, #ffffff 0%, #000000\) 0\.0%/,
  );
  expect(gradientOf(SCALE)).toContain('#ffffff 100%, #000000) 100.0%');
});
