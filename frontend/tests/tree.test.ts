import { expect, test } from 'vitest';
import { bodyOf, idsHeld, knownParts, parentsOf } from '../src/controls/tree';
import { outermost } from '../src/viewport/carry';
import { part, piece } from './pieces';

const TREE = piece(
  part('shell', { colour: '#112233' }, [
    part('body'),
    part('hole', { op: 'difference' }, [part('pin'), part('rim')]),
  ]),
  part('ghost', { reference: true, hidden: true }, [part('inside')]),
  part('foot'),
);
const known = knownParts(TREE);

test('a part takes the colour, the cutting and the hiding of what it stands in', () => {
  expect(known.get('pin')).toMatchObject({ colour: '#112233', role: 'difference', depth: 2, index: 0 });
  expect(known.get('inside')).toMatchObject({ reference: true, hidden: true, role: 'union' });
  expect(known.get('foot')?.colour).toBe('#c7a384');
  expect([...known.keys()]).toEqual(['shell', 'body', 'hole', 'pin', 'rim', 'ghost', 'inside', 'foot']);
});

test('what stands around a part, and what is in it', () => {
  expect(parentsOf(known, 'rim')).toEqual(['shell', 'hole']);
  expect(idsHeld(known, ['hole', 'gone'])).toEqual(new Set(['hole', 'pin', 'rim']));
  expect(outermost(known, ['pin', 'hole', 'foot'])).toEqual(['hole', 'foot']);
});

test('the body of a list is its first part that is no reference', () => {
  const body = (id: string) => bodyOf(TREE, known.get(id) as never)?.id;
  expect([body('rim'), body('hole'), body('foot')]).toEqual(['pin', 'body', 'shell']);
});
