/** Puts the tool out of hand again. */
import { useEditor } from '../../controls/editor';

export function Leave() {
  const set = useEditor((s) => s.set);
  return (
    <button type="button" className="plain small" onClick={() => set({ tool: 'hand' })}>
      Leave
    </button>
  );
}
