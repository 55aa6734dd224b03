import { expect, test } from 'vitest';
import { nextPlane } from '../src/print/nextPlane';

const CRAB = [
  [-45, -34, 0],
  [55.8, 32, 61],
] as const;

test('the first goes through the middle of the longest way, at a round number', () => {
  expect(nextPlane(CRAB, [])).toEqual({ axis: 'x', at: 5 });
});

test('each further one cuts what is longest then, never where one is', () => {
  const planes = [nextPlane(CRAB, [])];
  for (let i = 0; i < 5; i++) planes.push(nextPlane(CRAB, planes));
  expect(planes.slice(1, 3)).toEqual([
    { axis: 'y', at: -1 },
    { axis: 'z', at: 31 },
  ]);
  expect(new Set(planes.map((plane) => `${plane.axis}${plane.at}`)).size).toBe(6);
});

test('one that lies outside cuts nothing, and a piece of a millimetre is cut within it', () => {
  const tiny = [
    [0.2, 0, 0],
    [1.1, 0.4, 0.3],
  ] as const;
  expect(nextPlane(tiny, [{ axis: 'x', at: 40 }])).toEqual({ axis: 'x', at: 0.65 });
});
