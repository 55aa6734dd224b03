/** The worker's side: answers each question that the page asks, in turn. */

/** What a worker can be asked: a function each, from what is given to what is found. */
// biome-ignore lint/suspicious/noExplicitAny: each has a type of its own, told to the page by the worker's `Tasks`
export type Tasks = Record<string, (...given: any[]) => unknown>;

export type Question = { n: number; name: string; given: unknown[] };
export type Answer = { n: number; found?: unknown; problem?: string };

export function answer(tasks: Tasks) {
  self.onmessage = async ({ data: { n, name, given } }: MessageEvent<Question>) => {
    try {
      const found = await tasks[name]?.(...given);
      self.postMessage({ n, found } satisfies Answer, { transfer: buffersOf(found) });
    } catch (e) {
      self.postMessage({ n, problem: String(e) } satisfies Answer);
    }
  };
}

/** The buffers of arrays in what was found, and in what that holds: handed over instead of copied. */
function buffersOf(found: unknown): ArrayBuffer[] {
  const buffers = new Set<ArrayBuffer>();
  const look = (thing: unknown) => {
    if (ArrayBuffer.isView(thing)) buffers.add(thing.buffer as ArrayBuffer);
    else if (thing instanceof ArrayBuffer) buffers.add(thing);
    else if (thing && typeof thing === 'object') Object.values(thing).forEach(look);
  };
  look(found);
  return [...buffers];
}
