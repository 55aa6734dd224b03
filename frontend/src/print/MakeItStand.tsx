/** What would make the piece stand: each a step of its recipe, with how far it could be tipped then. */
import { type Steadying, useSteadyings } from '../api/printing';
import { short } from '../controls/format';
import type { Open } from '../controls/PieceFrame';

const WORDS: Record<Steadying['how'], (by: number) => string> = {
  lean: (by) => `Lean it by ${short(by, 1)}°`,
  flatten: (by) => `Cut ${short(by, 2)} mm off its foot`,
  spread: (by) => `Move its feet out by ${short(by, 1)} mm`,
  base: (by) => `Put a base of ${short(2 * by, 1)} mm under it`,
};

type Props = {
  open: Open;
  /** Which of them is seen in the view. */
  tried: string | null;
  tryOut: (how: string, edit: unknown) => void;
};

export function MakeItStand({ open, tried, tryOut }: Props) {
  const { data, error, isFetching } = useSteadyings(open.id, open.state.revision, true);
  if (error) return <p className="text-danger mb-0">{error.message}</p>;
  if (!data || isFetching) return <p className="quiet mb-0">Looking for what would make it stand …</p>;
  return (
    <div className="steadyings" data-testid="steadyings">
      <h4>Make it stand</h4>
      {data.length === 0 && (
        <p className="quiet mb-0">Nothing simple would help: give it a broader foot in Make.</p>
      )}
      {data.map(({ how, by, tip_angle, edit }) => (
        <div key={how} className="recipe-step">
          <span id={`steady-${how}`}>
            {WORDS[how](by)}
            <span className="quiet"> falls past {short(tip_angle, 1)}° then</span>
          </span>
          <button
            type="button"
            className="plain small"
            aria-pressed={tried === how}
            aria-describedby={`steady-${how}`}
            onClick={() => tryOut(how, edit)}
          >
            Try it
          </button>
          <button
            type="button"
            className="plain small"
            aria-describedby={`steady-${how}`}
            onClick={() => void open.work.edit(edit as Parameters<typeof open.work.edit>[0])}
          >
            Do it
          </button>
        </div>
      ))}
      <p className="quiet mb-0">Each is one step in the recipe, and can be undone.</p>
    </div>
  );
}
