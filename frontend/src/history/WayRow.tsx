/** A way on that was left, when the maker went back and worked on: one click leads to its end. */
import type { HistoryWay } from '../api/client';
import { day, plural } from '../controls/format';
import type { Open } from '../controls/PieceFrame';

export function WayRow({ open, way }: { open: Open; way: HistoryWay }) {
  const { end, steps } = way;
  return (
    <li className="way">
      <button type="button" onClick={() => void open.work.goTo(end.id)}>
        <b>Another way on: {plural(steps, 'step')}</b>
        <small>
          to {end.version ? `“${end.version}”` : `“${end.words}”`}, {day(end.at)}
        </small>
      </button>
    </li>
  );
}
