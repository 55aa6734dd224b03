/** The ways of looking at a piece, in the order of their buttons: a new one is a line here and its drawing in `PieceView`. */
import type { Look } from '../controls/editor';

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
