/** Shows and hides the history of the piece. */
import { toggleHistory, useHistoryShown } from './shown';

export function HistoryButton() {
  const shown = useHistoryShown((s) => s.shown);
  return (
    <button
      type="button"
      className="plain"
      aria-pressed={shown}
      title="All steps of this piece, and back to any of them (Alt+H)"
      onClick={toggleHistory}
    >
      History
    </button>
  );
}
