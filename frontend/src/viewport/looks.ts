/** The ways of looking at a piece, in the order of their buttons: a new one is a line here and its drawing in `PieceView`. */
import type { Look, Surface } from '../controls/editor';

export const LOOKS: { look: Look; word: string; title: string; command: `look-${Look}` }[] = [
  { look: 'result', word: 'Result', title: 'the joined skin, cutters dotted', command: 'look-result' },
  { look: 'parts', word: 'Parts', title: 'every part whole', command: 'look-parts' },
  { look: 'xray', word: 'X-ray', title: 'see through the skin', command: 'look-xray' },
  {
    look: 'apart',
    word: 'Pulled apart',
    title: 'what it is built from, drawn out of each other',
    command: 'look-apart',
  },
  {
    look: 'section',
    word: 'Section',
    title: 'cut open by a plane: walls, hollows, blends',
    command: 'look-section',
  },
];

/** How the skin is drawn in whichever way of looking: a new one is a line here and its drawing in `ResultMesh`. */
export const SURFACES: { surface: Surface; word: string; title: string; command: `surface-${Surface}` }[] = [
  { surface: 'glazed', word: 'As glazed', title: 'in the glaze of each part', command: 'surface-glazed' },
  { surface: 'clay', word: 'Grey clay', title: 'one grey, to judge its form', command: 'surface-clay' },
  { surface: 'wires', word: 'Wireframe', title: 'its triangles', command: 'surface-wires' },
  {
    surface: 'bands',
    word: 'Smoothness',
    title: 'bands that break at a seam and bend at a dent, edges in red',
    command: 'surface-bands',
  },
];
