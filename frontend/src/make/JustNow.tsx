/** What holds just now and is easily forgotten: the floor on a face, the group gone into, parts alone in sight; and what was done elsewhere. */
import { useShallow } from 'zustand/react/shallow';
import { useElsewhere } from '../api/making';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';

export function JustNow({ open }: { open: Open }) {
  const { floor, inside, solo, set } = useEditor(
    useShallow((s) => ({ floor: s.floor, inside: s.inside, solo: s.solo, set: s.set })),
  );
  const elsewhere = useElsewhere((s) => s.words);
  if (!floor && !inside && !solo && !elsewhere) return null;
  return (
    <section className="panel chips" aria-label="Just now">
      {elsewhere && (
        <button
          type="button"
          className="plain small"
          title="The piece was changed there meanwhile; its history has every step"
          onClick={() => useElsewhere.setState({ words: null })}
        >
          Elsewhere: {elsewhere} · all right
        </button>
      )}
      {floor && (
        <button type="button" className="plain small" onClick={() => set({ floor: null })}>
          The wheel lies on a face of {floor.name} · back down (Shift+Q)
        </button>
      )}
      {inside && (
        <button type="button" className="plain small" onClick={() => set({ chosen: [inside], inside: null })}>
          Inside {open.known.get(inside)?.part.name ?? 'a group'} · step out (Esc)
        </button>
      )}
      {solo && (
        <button type="button" className="plain small" onClick={() => set({ solo: null })}>
          Solo · show all
        </button>
      )}
    </section>
  );
}
