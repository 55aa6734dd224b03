import { BufferGeometry, Float32BufferAttribute, SphereGeometry } from 'three';
import { describe, expect, it } from 'vitest';
import { coarser, roughly } from '../src/viewport/coarser';
import { LEVELS, levelFor } from '../src/viewport/levels';
import { Pace, shareOf } from '../src/viewport/pace';
import { upright } from '../src/viewport/pixels';

const ball = new SphereGeometry(20, 96, 64);
const positions = ball.getAttribute('position').array as Float32Array;
const index = Uint32Array.from(ball.index?.array ?? []);

/** The volume within triangles, mm³. */
function volume(corners: Uint32Array): number {
  let sum = 0;
  const at = (c: number) => [0, 1, 2].map((axis) => positions[3 * (corners[c] as number) + axis] as number);
  for (let c = 0; c < corners.length; c += 3) {
    const [a, b, d] = [at(c), at(c + 1), at(c + 2)] as [number[], number[], number[]];
    const [ax, ay, az] = a as [number, number, number];
    const [bx, by, bz] = b as [number, number, number];
    const [dx, dy, dz] = d as [number, number, number];
    sum += (ax * (by * dz - bz * dy) + ay * (bz * dx - bx * dz) + az * (bx * dy - by * dx)) / 6;
  }
  return sum;
}

describe('coarser skins', () => {
  it('have half the triangles each time, and keep the shape', async () => {
    const levels = await coarser(positions, index);
    expect(levels).toHaveLength(LEVELS);
    let last = index.length;
    for (const level of levels.slice(0, 5)) {
      expect(level.length).toBeLessThanOrEqual(0.8 * last);
      expect(Math.max(...level)).toBeLessThan(positions.length / 3);
      expect(Math.abs(volume(level) / volume(index) - 1)).toBeLessThan(0.06);
      last = level.length;
    }
  });
  it('come roughly at once', async () => {
    const rough = await roughly(positions, index, 0.2);
    expect(rough.length).toBeGreaterThan(0.02 * index.length);
    expect(rough.length).toBeLessThanOrEqual(0.25 * index.length);
    expect(Math.abs(volume(rough) / volume(index) - 1)).toBeLessThan(0.15);
  });
  it('are left alone where nothing is to be seen', async () => {
    const empty = new BufferGeometry().setAttribute('position', new Float32BufferAttribute([], 3));
    const levels = await coarser(empty.getAttribute('position').array as Float32Array, new Uint32Array());
    expect(levels.every((level) => level.length === 0)).toBe(true);
  });
  it.each([
    [1, 0],
    [0.6, 1],
    [0.5, 1],
    [0.3, 2],
    [0.01, LEVELS],
    [1e-6, LEVELS],
  ])('of a share of %f are those of level %i', (share, level) => {
    expect(levelFor(share)).toBe(level);
  });
});

describe('the pace', () => {
  it('takes less where frames are too slow, and only after two of them', () => {
    const pace = new Pace(false);
    pace.note(400, 100_000);
    expect(pace.budget).toBe(Number.POSITIVE_INFINITY);
    pace.note(400, 100_000);
    expect(pace.budget).toBe(10_000);
    expect(shareOf({ moving: true, budget: pace.budget, inSight: 100_000 })).toBeCloseTo(0.1);
    expect(shareOf({ moving: false, budget: pace.budget, inSight: 100_000 })).toBe(1);
  });
  it('never judges frames that are not alike together', () => {
    const pace = new Pace(false);
    for (let n = 0; n < 6; n++) pace.note(400, n % 2 ? 100_000 : 10_000);
    expect(pace.budget).toBe(Number.POSITIVE_INFINITY);
  });
  it('begins carefully where no graphics card is, and takes more once it is seen to be quick', () => {
    const pace = new Pace(true);
    expect(shareOf({ moving: false, budget: pace.budget, inSight: 1_400_000 })).toBeLessThan(0.2);
    pace.note(8, 200_000);
    pace.note(8, 200_000);
    expect(shareOf({ moving: true, budget: pace.budget, inSight: 900_000 })).toBe(1);
  });
  it('never gets so coarse that nothing is left', () => {
    const pace = new Pace(false);
    for (let n = 0; n < 20; n++) pace.note(5000, 9000);
    expect(pace.budget).toBe(8000);
  });
});

it('pixels are put upright, their colours as if nothing shone through', () => {
  Object.assign(globalThis, {
    ImageData: class {
      data: Uint8ClampedArray;
      constructor(
        readonly width: number,
        readonly height: number,
      ) {
        this.data = new Uint8ClampedArray(4 * width * height);
      }
    },
  });
  const found = upright(
    Uint8ClampedArray.from([50, 25, 0, 127.5, 0, 0, 0, 0, 9, 8, 7, 255, 1, 2, 3, 255]),
    2,
    2,
  );
  expect([...found.data.slice(0, 8)]).toEqual([9, 8, 7, 255, 1, 2, 3, 255]);
  expect(found.data[8]).toBeCloseTo(100, -1);
  expect([...found.data.slice(12)]).toEqual([0, 0, 0, 0]);
});
