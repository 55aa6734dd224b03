/** Glazes beside the named ones: those that parts of this piece have, and those that the maker mixed, in this browser. */
import { create } from 'zustand';
import { keepList, keptList } from '../../controls/keptList';
import type { Known } from '../../controls/tree';
import { GLAZES } from '../../theme/glazes';

const PLACE = 'own glazes';
const MOST = 12;
const COLOUR = /^#[0-9a-f]{6}$/;

export const useOwnGlazes = create<{ list: string[] }>(() => ({
  list: keptList<string>(PLACE)
    .filter((c) => COLOUR.test(String(c)))
    .slice(0, MOST),
}));

/** The newest first; the oldest goes. */
export function keepGlaze(colour: string) {
  if (GLAZES.some((g) => g.colour.toLowerCase() === colour)) return;
  const list = [colour, ...useOwnGlazes.getState().list.filter((c) => c !== colour)].slice(0, MOST);
  useOwnGlazes.setState({ list });
  keepList(PLACE, list);
}

/** "#A1B" or "a1b2c3" as "#aa11bb" is written; null for what is no colour. */
export function readColour(text: string): string | null {
  const digits = text.trim().toLowerCase().replace(/^#/, '');
  const six = digits.length === 3 ? [...digits].map((d) => d + d).join('') : digits;
  return COLOUR.test(`#${six}`) ? `#${six}` : null;
}

/** Colours of the piece that are no named glaze, in the order of the recipe. */
export function glazesOf(known: Map<string, Known>): string[] {
  const named = new Set(GLAZES.map((g) => g.colour.toLowerCase()));
  const own = [...known.values()].flatMap(({ part }) => part.colour?.toLowerCase() ?? []);
  return [...new Set(own)].filter((colour) => !named.has(colour));
}
