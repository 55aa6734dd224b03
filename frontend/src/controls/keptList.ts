/** Lists that are kept in this browser, under a name. */

/** What was kept; nothing where that cannot be read, since then it is not ours. */
export function keptList<T>(name: string): T[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(name) ?? '[]');
    return Array.isArray(list) ? list : [];
  } catch {
    return [];
  }
}

/** Where the browser keeps nothing, it is there until the page is left. */
export function keepList<T>(name: string, list: T[]) {
  try {
    localStorage.setItem(name, JSON.stringify(list));
  } catch {
    // As said.
  }
}
