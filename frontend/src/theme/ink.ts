/** The colours of the scene: custom properties of the page's style, read when they are first needed. */
const PROPERTIES = {
  ink: 'ink',
  chosen: 'glaze',
  cut: 'cut',
  keep: 'keep',
  flaw: 'flaw',
  floor: 'wheel',
  floorLine: 'wheel-line',
  floorRim: 'wheel-rim',
  section: 'section',
  paper: 'scene-paper',
  reference: 'reference',
  clay: 'clay',
  plain: 'plain-clay',
  line: 'glaze-line',
  light: 'light',
  sky: 'sky',
  bounce: 'bounce',
} as const;

type Name = keyof typeof PROPERTIES;
const read: Partial<Record<Name, string>> = {};

/** What things of the view mean: chosen, cut, kept, flawed. */
export const INK = Object.defineProperties(
  {},
  Object.fromEntries(
    Object.entries(PROPERTIES).map(([name, property]) => [
      name,
      {
        get: () => {
          const known = read[name as Name];
          if (known) return known;
          const found = getComputedStyle(document.documentElement).getPropertyValue(`--${property}`).trim();
          if (found) read[name as Name] = found;
          return found;
        },
      },
    ]),
  ),
) as Record<Name, string>;
