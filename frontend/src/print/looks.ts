/** The ways of looking at what lies on the bed, and the scales of their maps. */
import { INK } from '../theme/ink';
import type { Scale } from '../viewport/scalarMap';

export type PrintLook = 'solid' | 'overhangs' | 'walls' | 'layers' | 'parts';

export const PRINT_LOOKS: { look: PrintLook; word: string; title: string }[] = [
  { look: 'solid', word: 'Solid', title: 'as it is glazed' },
  { look: 'overhangs', word: 'Overhangs', title: 'what leans out over the air' },
  { look: 'walls', word: 'Walls', title: 'how thick it is behind each bit of its skin' },
  { look: 'layers', word: 'Layers', title: 'what the printer lays, layer by layer' },
  { look: 'parts', word: 'Parts', title: 'what it was cut into, drawn apart' },
];

/** Degrees from the upright. */
export const STEEP = 45;
export const leanScale = (): Scale => ({
  from: INK.clay,
  to: INK.flaw,
  least: STEEP - 10,
  most: 90,
  curve: 'root',
});

/** From the colour of flaws, where it is thinner than a line, to clay where it is thick enough. */
export const wallScale = (nozzle: number): Scale => ({
  from: INK.flaw,
  to: INK.clay,
  least: nozzle,
  most: 5 * nozzle,
  curve: 'straight',
});

/** What each kind of path is called, by the numbers that the server gives them, and its colour. */
export const PATHS: { word: string; colour: () => string }[] = [
  { word: 'outer wall', colour: () => INK.chosen },
  { word: 'walls', colour: () => INK.line },
  { word: 'skin', colour: () => INK.keep },
  { word: 'infill', colour: () => INK.clay },
  { word: 'support', colour: () => INK.cut },
];
