import * as THREE from 'three';
import { expect, test } from 'vitest';
import { knownParts } from '../src/controls/tree';
import { radiusBetween, runOver } from '../src/viewport/glazes';
import { drawable } from '../src/viewport/meshes';
import { part, piece } from './pieces';

test('parts run together over the radius of the one that comes later, or of its list', () => {
  const soft = part('soft', {}, [
    part('a'),
    part('b'),
    part('eye', { blend: 0 }),
    part('in', {}, [part('c'), part('d')]),
  ]);
  const join = { ...soft, join: { ...soft.join, blend: 3 } } as typeof soft;
  const known = knownParts(piece(join, part('apart'), part('near', { blend: 1.5 })));
  const between = (one: string, other: string) => radiusBetween(known, one, other);
  expect(between('a', 'b')).toBe(3);
  expect(between('eye', 'a')).toBe(0);
  expect(between('c', 'a')).toBe(3);
  expect(between('c', 'd')).toBe(0);
  expect(between('a', 'apart')).toBe(0);
  expect(between('near', 'c')).toBe(1.5);
});

/** A strip of squares of 1 mm along x, of one part below x = 3 and of another beyond. */
function strip(length: number) {
  const vertices: number[] = [];
  const triangles: number[] = [];
  for (let x = 0; x <= length; x++) vertices.push(x, 0, 0, x, 1, 0);
  for (let x = 0; x < length; x++)
    triangles.push(2 * x, 2 * x + 2, 2 * x + 1, 2 * x + 2, 2 * x + 3, 2 * x + 1);
  return drawable({
    vertices: new Float32Array(vertices),
    triangles: new Uint32Array(triangles),
    partOf: new Uint32Array(Array.from({ length: 2 * length }, (_, t) => (t < 6 ? 0 : 1))),
  });
}

test('a glaze runs over by half in the middle of a run, and not at all where it ends', () => {
  const mesh = strip(8);
  const paint = new Float32Array(mesh.partOf.length * 3);
  const glazes = [new THREE.Color(0, 0, 0), new THREE.Color(1, 1, 1)];
  mesh.partOf.forEach((p, corner) => {
    paint.fill(p, 3 * corner, 3 * corner + 3);
  });
  const plain = paint.slice();
  runOver(mesh, glazes, paint, () => 0);
  expect(paint).toEqual(plain);
  runOver(mesh, glazes, paint, () => 2.5 / 0.8);
  const at = mesh.geometry.getAttribute('position');
  const told = new Map<string, number>();
  mesh.partOf.forEach((p, corner) => {
    if (at.getY(corner) === 0)
      told.set(`${at.getX(corner)} ${p}`, Number((paint[3 * corner] as number).toFixed(3)));
  });
  expect(told.get('3 0')).toBe(0.5);
  expect(told.get('3 1')).toBe(0.5);
  expect(told.get('2 0')).toBe(0.324);
  expect(told.get('4 1')).toBe(0.676);
  expect([told.get('0 0'), told.get('7 1')]).toEqual([0, 1]);
});

test('a glaze that runs over comes to an end, whatever the distances round to', () => {
  const { vertices, triangles, partOf } = strip(40).data;
  const mesh = drawable({
    vertices: vertices.map((v, i) => v * 0.137 + 0.01 * Math.sin(7.3 * i)),
    triangles,
    partOf,
  });
  const paint = new Float32Array(mesh.partOf.length * 3).fill(-1);
  runOver(mesh, [new THREE.Color(0, 0, 0), new THREE.Color(1, 1, 1)], paint, () => 3);
  const painted = [...paint].filter((v) => v >= 0);
  expect(painted.length).toBeGreaterThan(60);
  expect(painted.every((v) => v <= 1)).toBe(true);
});
