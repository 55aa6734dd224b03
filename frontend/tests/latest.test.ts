import { expect, test } from 'vitest';
import { latest } from '../src/controls/latest';

test('one at a time, and of those that come meanwhile only the newest', async () => {
  const asked: number[] = [];
  const open: ((value: number) => void)[] = [];
  const answers: [number, number][] = [];
  const ask = latest(
    (n: number) => {
      asked.push(n);
      return new Promise<number>((resolve, reject) => {
        open.push(n === 3 ? () => reject(new Error('no')) : resolve);
      });
    },
    (n, a: number) => answers.push([n, a]),
  );
  for (const n of [1, 2, 3]) ask(n);
  expect(asked).toEqual([1]);
  open[0]?.(10);
  await new Promise((r) => setTimeout(r));
  expect(asked).toEqual([1, 3]);
  ask(4);
  open[1]?.(0); // fails
  await new Promise((r) => setTimeout(r));
  open[2]?.(40);
  await new Promise((r) => setTimeout(r));
  expect(asked).toEqual([1, 3, 4]);
  expect(answers).toEqual([
    [1, 10],
    [4, 40],
  ]);
});
