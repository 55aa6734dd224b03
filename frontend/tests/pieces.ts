/** Pieces and scenes as the tests need them: boxes by name. */
import type { Part, Piece, Scene } from '../src/api/client';
import type { Vector } from '../src/controls/editor';

const PLACE = { position: [0, 0, 0], rotation: [0, 0, 0], scale: [1, 1, 1] };

/** A part of the recipe; with `parts` it is a join. */
export function part(id: string, more: Partial<Part> = {}, parts?: Part[]): Part {
  const geometry = parts
    ? { join: { parts, blend: 0, fineness: null } }
    : { primitive: { kind: 'box', size: [10, 10, 10], edge: null } };
  return { id, name: id, op: 'union', place: PLACE, changes: [], ...geometry, ...more } as unknown as Part;
}

export const piece = (...parts: Part[]): Piece => ({ name: 'Test', notes: '', parts }) as unknown as Piece;

/** What the view has of boxes of 10 mm, each about a middle. */
export function scene(middles: Record<string, Vector>): Scene {
  const parts = Object.entries(middles).map(([id, at]) => ({
    id,
    key: id,
    matrices: [[1, 0, 0, at[0], 0, 1, 0, at[1], 0, 0, 1, at[2]]],
    own: [
      [-5, -5, -5],
      [5, 5, 5],
    ],
    size: [10, 10, 10],
    box: [at.map((v) => v - 5), at.map((v) => v + 5)],
    handles: [],
  }));
  return { parts, result: null, patch: null, soundness: null } as unknown as Scene;
}
