/** The card at the right: of the chosen part, of several, or of the whole piece. */
import { useEditor } from '../../controls/editor';
import type { Open } from '../../controls/PieceFrame';
import type { Actions } from '../actions';
import type { Live } from '../useDragContext';
import { OnePart } from './OnePart';
import { PieceCardSide } from './PieceCardSide';
import { Several } from './Several';

type Props = { open: Open; actions: Actions; live: Live };

export function PartCard({ open, actions, live }: Props) {
  const chosen = useEditor((s) => s.chosen).filter((id) => open.known.has(id));
  if (chosen.length === 0) return <PieceCardSide open={open} />;
  const [first] = chosen;
  return (
    <aside className="side right" aria-label="Card of what is chosen">
      {chosen.length === 1 && first ? (
        <OnePart key={first} open={open} id={first} actions={actions} live={live} />
      ) : (
        <Several open={open} ids={chosen} actions={actions} />
      )}
    </aside>
  );
}
