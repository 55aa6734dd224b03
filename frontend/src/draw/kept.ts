/** A drawing that the piece has not taken is kept in this browser, by piece and part, until it is taken or given up. */
import type { Loop } from './nodes';

const key = (piece: string, part: string) => `noble-clay drawing ${piece} ${part}`;

export function keepDrawing(piece: string, part: string, loops: Loop[]) {
  localStorage.setItem(key(piece, part), JSON.stringify(loops));
}

export function keptDrawing(piece: string, part: string): Loop[] | null {
  const text = localStorage.getItem(key(piece, part));
  if (!text) return null;
  try {
    return JSON.parse(text) as Loop[];
  } catch {
    return null; // not ours
  }
}

export const dropDrawing = (piece: string, part: string) => localStorage.removeItem(key(piece, part));
