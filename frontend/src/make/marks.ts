/** Marks of how a part meets others, in words, and what mends them. */
import type { Mark } from '../api/client';
import { short } from '../controls/format';

type Said = { word: string; why: string; mend: string | null };

export function sayMark(mark: Mark, other?: string): Said {
  const it = other ?? 'another part';
  switch (mark.state) {
    case 'floats':
      return {
        word: 'floats',
        why: `It touches nothing${mark.gap ? `: ${short(mark.gap, 2)} mm away from ${it}` : ''}, and would print as a loose piece.`,
        mend: mark.by && `Bring it to ${it}`,
      };
    case 'copies_apart':
      return {
        word: 'copies apart',
        why: `Its copies do not touch each other${mark.gap ? `: ${short(mark.gap, 2)} mm lie between them and the rest` : ''}, and would print as loose pieces.`,
        mend: null,
      };
    case 'touches':
      return {
        word: 'only touches',
        why: `It touches ${it} only along an edge or at a point, which holds nothing: the join would be flawed.`,
        mend: mark.by && 'Sink it in',
      };
    case 'inside':
      return { word: 'inside', why: `It lies wholly inside ${it} and adds nothing.`, mend: 'Remove it' };
    case 'pokes_through':
      return {
        word: 'pokes through',
        why: `It goes right through ${it} and comes out on the other side.`,
        mend: mark.by && 'Pull it back',
      };
    case 'cuts_nothing':
      return {
        word: 'cuts nothing',
        why: 'It is meant to cut, but there is nothing where it stands.',
        mend: 'Remove it',
      };
  }
}
