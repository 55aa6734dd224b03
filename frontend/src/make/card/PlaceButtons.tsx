/** What places parts by what stands around them. */
import { useEditor } from '../../controls/editor';
import type { Actions } from '../actions';

export function PlaceButtons({ actions, locked }: { actions: Actions; locked: boolean }) {
  const set = useEditor((s) => s.set);
  const buttons: [string, string, () => void][] = [
    ['Set down', 'V: onto the floor', () => actions.setDown()],
    ['Seat …', 'E: onto a face of another part', () => set({ tool: 'seat' })],
    ['Centre', 'C: on the wheel', actions.centre],
    ['Mirror ↔', 'Alt+X: left to right, in place', () => actions.mirror('x')],
    ['Mirror ↕', 'Alt+Z: upside down, in place', () => actions.mirror('z')],
  ];
  return (
    <div className="buttons mt-2">
      {buttons.map(([word, title, run]) => (
        <button
          key={word}
          type="button"
          className="plain small"
          title={title}
          disabled={locked}
          onClick={run}
        >
          {word}
        </button>
      ))}
    </div>
  );
}
