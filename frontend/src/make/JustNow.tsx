/** What holds just now and is easily forgotten: the face that is the floor, the group that was entered, parts alone in sight. */
import { useShallow } from 'zustand/react/shallow';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';

export function JustNow({ open }: { open: Open }) {
  const { floor, inside, solo, set } = useEditor(
    useShallow((s) => ({ floor: s.floor, inside: s.inside, solo: s.solo, set: s.set })),
  );
  if (!floor && !inside && !solo) return null;
  return (
    <section className="panel chips" aria-label="Just now">
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
