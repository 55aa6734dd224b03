/** The page's side: questions to a worker, that is started with the first of them. */
import type { Answer, Question, Tasks } from './answer';

type Waiting = { done: (found: unknown) => void; failed: (why: Error) => void };

/** A worker's tasks as the page calls them. */
export type Asked<T extends Tasks> = {
  [Name in keyof T]: (...given: Parameters<T[Name]>) => Promise<Awaited<ReturnType<T[Name]>>>;
};

export function asking<T extends Tasks>(start: () => Worker): Asked<T> {
  let worker: Worker | null = null;
  let count = 0;
  const waiting = new Map<number, Waiting>();

  /** One that broke down is started anew with the next question; what it was asked is told as failed. */
  const broken = () => {
    worker?.terminate();
    worker = null;
    for (const { failed } of waiting.values()) failed(new Error('What was to be made ready aside failed.'));
    waiting.clear();
  };
  const begin = () => {
    worker = start();
    worker.onerror = broken;
    worker.onmessage = ({ data: { n, found, problem } }: MessageEvent<Answer>) => {
      const asked = waiting.get(n);
      waiting.delete(n);
      if (problem === undefined) asked?.done(found);
      else asked?.failed(new Error(problem));
    };
    return worker;
  };
  const ask = (name: string, given: unknown[]) =>
    new Promise<unknown>((done, failed) => {
      count += 1;
      waiting.set(count, { done, failed });
      (worker ?? begin()).postMessage({ n: count, name, given } satisfies Question);
    });
  return new Proxy({} as Asked<T>, {
    get:
      (_, name) =>
      (...given: unknown[]) =>
        ask(String(name), given),
  });
}
