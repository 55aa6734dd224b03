/** Reading the recipe: parts by id, their parents, colours, and whether they cut. */
import type { Op, Part, Piece } from '../api/client';
import { INK } from '../theme/ink';

export type Known = {
  part: Part;
  parent: Part | null;
  index: number;
  depth: number;
  /** Own colour, else that of the nearest join around it. */
  colour: string;
  /** How far it is not seen through, its own and that of the joins around it. */
  opacity: number;
  /** How it ends up entering the piece: cutters in cutters stay cutters. */
  role: Op;
  reference: boolean;
  hidden: boolean;
};

export const childrenOf = (part: Part): Part[] => part.join?.parts ?? [];

/** Every part by id, in the order of the recipe. */
export function knownParts(piece: Piece): Map<string, Known> {
  const found = new Map<string, Known>();
  const visit = (parts: Part[], parent: Known | null) => {
    parts.forEach((part, index) => {
      const known: Known = {
        part,
        parent: parent?.part ?? null,
        index,
        depth: parent ? parent.depth + 1 : 0,
        colour: part.colour ?? parent?.colour ?? INK.clay,
        opacity: (part.opacity ?? 1) * (parent?.opacity ?? 1),
        role: parent && parent.role !== 'union' ? parent.role : part.op,
        reference: part.reference || (parent?.reference ?? false),
        hidden: part.hidden || (parent?.hidden ?? false),
      };
      found.set(part.id, known);
      visit(childrenOf(part), known);
    });
  };
  visit(piece.parts, null);
  return found;
}

/** The ids of the joins around a part, from the outermost in. */
export function parentsOf(known: Map<string, Known>, id: string): string[] {
  const parent = known.get(id)?.parent;
  return parent ? [...parentsOf(known, parent.id), parent.id] : [];
}

/** The ids of a part and of all in it. */
export function idsWithin(part: Part): string[] {
  return [part.id, ...childrenOf(part).flatMap(idsWithin)];
}

/** All ids that the chosen parts stand for, theirs and those within them. */
export function idsHeld(known: Map<string, Known>, chosen: string[]): Set<string> {
  return new Set(chosen.flatMap((id) => (known.has(id) ? idsWithin((known.get(id) as Known).part) : [])));
}

/** The body of the list that a part stands in: its first part that is no reference. */
export function bodyOf(piece: Piece, known: Known): Part | undefined {
  const list = known.parent ? childrenOf(known.parent) : piece.parts;
  return list.find((p) => !p.reference);
}

export const SIGN: Record<Op, string> = { union: '∪', difference: '−', intersection: '∩' };
