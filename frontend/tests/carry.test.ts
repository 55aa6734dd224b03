import * as THREE from 'three';
import { expect, test } from 'vitest';
import { knownParts } from '../src/controls/tree';
import { carriedParts, copiesCarried, moved, toStep, turned } from '../src/viewport/carry';
import { part, piece } from './pieces';

const at = (m: THREE.Matrix4) =>
  new THREE.Vector3()
    .setFromMatrixPosition(m)
    .toArray()
    .map((v) => Number(v.toFixed(9)) + 0);

test('copies go along in their own frames', () => {
  const first = new THREE.Matrix4().makeTranslation(10, 0, 0);
  const quarter = new THREE.Matrix4().makeRotationZ(Math.PI / 2).multiply(first);
  const carried = new THREE.Matrix4().makeTranslation(3, 0, 0);
  expect(copiesCarried([first, quarter], carried).map(at)).toEqual([
    [13, 0, 0],
    [0, 13, 0],
  ]);
});

test('a drag takes all that is within what is dragged', () => {
  const known = knownParts(piece(part('group', {}, [part('a'), part('b')]), part('c')));
  const drag = { ...moved(['group'], [1, 2, 3]), said: '', snaps: [] };
  expect([...carriedParts(known, drag).keys()]).toEqual(['group', 'a', 'b']);
});

test('a turn about a point is the edit that the server makes', () => {
  const { edit, carried } = turned(['a'], [0, 0, 1], 90, [10, 0, 0]);
  expect(edit).toMatchObject({
    kind: 'carry',
    moves: [{ id: 'a', turn: { angle: 90, centre: [10, 0, 0] } }],
  });
  expect(at(carried.get('a') as THREE.Matrix4)).toEqual([10, -10, 0]);
});

test('nothing moved is no edit', () => {
  expect(moved(['a'], [0, 0, 0]).edit).toBeNull();
  expect(turned(['a'], [0, 0, 1], 0, [0, 0, 0]).edit).toBeNull();
});

test('steps leave no noise of binary fractions', () => {
  expect([toStep(0.30000000000000004, 0.1), toStep(-0.04, 0.1), toStep(7.6, 5)]).toEqual([0.3, 0, 10]);
});
