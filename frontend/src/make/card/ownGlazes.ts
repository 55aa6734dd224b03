/** Glazes beside the named ones: those that parts of this piece have, and those that the maker mixed. */
import { useKeepPreferences, usePreferences } from '../../api/preferences';
import type { Known } from '../../controls/tree';
import { GLAZES } from '../../theme/glazes';

const MOST = 24;
const COLOUR = /^#[0-9a-f]{6}$/;

/** The maker's own palette, the newest first, and what puts a glaze into it; the oldest goes. */
export function useOwnGlazes(): { own: string[]; keep: (colour: string) => void } {
  const preferences = usePreferences();
  const change = useKeepPreferences();
  const own = preferences.own_glazes;
  return {
    own,
    keep: (colour) => {
      if (GLAZES.some((g) => g.colour.toLowerCase() === colour)) return;
      const glazes = [colour, ...own.filter((c) => c !== colour)].slice(0, MOST);
      change.mutate({ ...preferences, own_glazes: glazes });
    },
  };
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
