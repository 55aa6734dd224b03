/** Line up: for each axis, low sides, middles, high sides or even gaps; seen before it is done. */
import { useEffect } from 'react';
import type { Adjust } from '../../api/client';
import type { Open } from '../../controls/PieceFrame';
import { endPreview, showPreview } from '../../viewport/preview';
import type { Actions } from '../actions';

const AXES = [
  { axis: 'x', word: 'Across', levels: { low: 'left', middle: 'middle', high: 'right', even: 'even' } },
  { axis: 'y', word: 'Away', levels: { low: 'front', middle: 'middle', high: 'back', even: 'even' } },
  { axis: 'z', word: 'Height', levels: { low: 'foot', middle: 'middle', high: 'top', even: 'even' } },
] as const;
export const LINE_UP = 'line-up';

type Props = { open: Open; ids: string[]; locked: boolean; actions: Actions };

export function LineUp({ open, ids, locked, actions }: Props) {
  useEffect(() => endPreview, []);
  const anchor = ids[ids.length - 1] as string;
  return (
    <section className="section line-up" id={LINE_UP} aria-label="Line up">
      <h3>
        Line up <span className="quiet">with {open.known.get(anchor)?.part.name}, picked last</span>
      </h3>
      {AXES.map(({ axis, word, levels }) => (
        <div key={axis}>
          <span className="quiet">{word}</span>
          {Object.entries(levels).map(([level, label]) => {
            const wanted = { kind: 'line_up', ids, anchor, [axis]: level } as unknown as Adjust;
            const show = () => void showPreview(open.work, wanted, `${word.toLowerCase()}: ${label}`);
            return (
              <button
                key={level}
                type="button"
                className="plain small"
                disabled={locked || (level === 'even' && ids.length < 3)}
                title={level === 'even' ? 'even gaps; takes three parts or more' : undefined}
                onPointerEnter={show}
                onPointerLeave={endPreview}
                onFocus={show}
                onBlur={endPreview}
                onClick={() => void actions.adjust(wanted)}
              >
                {label}
              </button>
            );
          })}
        </div>
      ))}
    </section>
  );
}
