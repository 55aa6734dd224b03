/** Line up: for each axis, low sides, middles, high sides or even gaps; seen before it is done. */
import { useEffect } from 'react';
import type { Adjust } from '../api/client';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { showPreview } from '../viewport/FaceTool';
import type { Actions } from './actions';

const AXES = [
  { axis: 'x', word: 'Across', levels: { low: 'left sides', middle: 'middles', high: 'right sides' } },
  { axis: 'y', word: 'Away', levels: { low: 'fronts', middle: 'middles', high: 'backs' } },
  { axis: 'z', word: 'Height', levels: { low: 'feet', middle: 'middles', high: 'tops' } },
] as const;

export function LineUp({ open, actions }: { open: Open; actions: Actions }) {
  const { liningUp, set, chosen } = useEditor();
  const ids = chosen.filter((id) => open.known.has(id));
  const anchor = ids[ids.length - 1];
  useEffect(() => () => useEditor.getState().setDrag(null), []);
  if (!liningUp || ids.length < 2 || !anchor) return null;
  const adjust = (axis: string, level: string) =>
    ({ kind: 'line_up', ids, anchor, [axis]: level }) as unknown as Adjust;
  const leave = () => useEditor.getState().setDrag(null);
  return (
    <section className="panel line-up" aria-label="Line up">
      <header>
        <b>Line up</b>
        <span className="quiet">
          with {open.known.get(anchor)?.part.name}, the one picked last, which stays
        </span>
        <button
          type="button"
          className="icon-button"
          aria-label="Close"
          onClick={() => set({ liningUp: false })}
        >
          ×
        </button>
      </header>
      {AXES.map(({ axis, word, levels }) => (
        <div key={axis} className="row-of">
          <span>{word}</span>
          {[...Object.entries(levels), ...(ids.length > 2 ? [['even', 'even gaps']] : [])].map(
            ([level, label]) => {
              const wanted = adjust(axis, level as string);
              return (
                <button
                  key={level}
                  type="button"
                  className="plain small"
                  onPointerEnter={() =>
                    void showPreview(open.work, wanted, `${word.toLowerCase()}: ${label}`)
                  }
                  onPointerLeave={leave}
                  onFocus={() => void showPreview(open.work, wanted, `${word.toLowerCase()}: ${label}`)}
                  onBlur={leave}
                  onClick={() => void actions.adjust(wanted)}
                >
                  {label}
                </button>
              );
            },
          )}
        </div>
      ))}
    </section>
  );
}
