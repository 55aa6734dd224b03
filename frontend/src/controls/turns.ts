/** Work that is done one after the other: what is asked for meanwhile waits for its turn. */
export function turns(): <T>(work: () => Promise<T>) => Promise<T> {
  let last: Promise<unknown> = Promise.resolve();
  return (work) => {
    const mine = last.then(work);
    last = mine.catch(() => undefined);
    return mine;
  };
}
