/** What is odd about how the chosen part meets others, and the click that mends it. */
import type { Mark } from '../../api/client';
import { useMarks } from '../../api/pieces';
import type { Open } from '../../controls/PieceFrame';
import { sayMark } from '../marks';

export function MarksNote({ open, id }: { open: Open; id: string }) {
  const marks = (useMarks(open.state).data?.marks ?? []).filter((m) => m.part === id);
  if (!marks.length) return null;
  const mend = (mark: Mark) =>
    mark.by
      ? open.work.edit({ kind: 'move', ids: [id], by: mark.by })
      : open.work.edit({ kind: 'remove_parts', ids: [id] });
  return (
    <div className="section odd">
      {marks.map((mark) => {
        const said = sayMark(mark, mark.other ? open.known.get(mark.other)?.part.name : undefined);
        return (
          <p key={mark.state + mark.other}>
            <b>▲ {said.word}</b> {said.why}
            {said.mend && (
              <button type="button" className="plain small" onClick={() => void mend(mark)}>
                {said.mend}
              </button>
            )}
          </p>
        );
      })}
    </div>
  );
}
