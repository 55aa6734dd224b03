import { expect, test } from 'vitest';
import { Shelf } from '../src/viewport/shelf';

type Thing = { size: number; used: boolean; dropped: boolean };
const thing = (size: number, used = false): Thing => ({ size, used, dropped: false });
const shelf = (budget: number) =>
  new Shelf<Thing>({
    budget,
    bytes: (t) => t.size,
    inUse: (t) => t.used,
    drop: (t) => {
      t.dropped = true;
    },
  });

test('the least lately used goes first, by bytes and not by number', async () => {
  const here = shelf(100);
  const [a, b, c] = [thing(40), thing(40), thing(40)];
  await here.get('a', async () => a);
  await here.get('b', async () => b);
  await here.get('a', async () => thing(0));
  await here.get('c', async () => c);
  expect([a.dropped, b.dropped, c.dropped]).toEqual([false, true, false]);
  expect(here.bytes).toBe(80);
});

test('what is in use is never dropped, nor what came last, however large', async () => {
  const here = shelf(100);
  const [mounted, large] = [thing(80, true), thing(500)];
  await here.get('mounted', async () => mounted);
  await here.get('large', async () => large);
  expect([mounted.dropped, large.dropped]).toEqual([false, false]);
  await here.get('next', async () => thing(10));
  expect([mounted.dropped, large.dropped]).toEqual([false, true]);
});

test('one fetch for a key, and a failed one is forgotten', async () => {
  const here = shelf(100);
  let fetched = 0;
  const fetch = async () => {
    fetched++;
    if (fetched === 1) throw new Error('away');
    return thing(1);
  };
  await expect(here.get('a', fetch)).rejects.toThrow('away');
  await Promise.all([here.get('a', fetch), here.get('a', fetch)]);
  expect(fetched).toBe(2);
});
