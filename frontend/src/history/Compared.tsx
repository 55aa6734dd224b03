/** What the piece, or a later step, has that it had not at an earlier one, in words; the view draws what it was as glass. */
import type { HistoryStep } from '../api/client';
import { useComparedSteps } from '../api/history';
import { useEditor } from '../controls/editor';
import { plural } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { useHistoryShown } from './shown';

const called = (step: HistoryStep) => (step.version ? `“${step.version}”` : `step ${step.number}`);

type Props = { open: Open; step: HistoryStep; later: HistoryStep | null };

export function Compared({ open, step, later }: Props) {
  const compared = useComparedSteps(open.id, open.state.revision, step.id, later?.id ?? null);
  const found = compared.data?.differences;
  return (
    <section className="compared-steps" aria-label="Compared">
      <header>
        <h3>
          {found ? plural(found.length, 'line') : 'What'} {found?.length === 1 ? 'differs' : 'differ'}{' '}
          {later && `in ${called(later)} `}from {called(step)}
        </h3>
        <button
          type="button"
          className="icon-button"
          aria-label="Stop comparing"
          onClick={() => useHistoryShown.setState({ compared: null, later: null })}
        >
          ×
        </button>
      </header>
      {compared.error && <p className="text-danger">{compared.error.message}</p>}
      {!found && !compared.error && <p className="quiet">Comparing …</p>}
      {found?.length === 0 && (
        <p className="quiet">Nothing: {later ? 'both are the same' : 'the piece is as it was'}.</p>
      )}
      {compared.data && (
        <p className="quiet">
          {compared.data.skin
            ? `The view shows what it was as a glassy skin around ${later ? called(later) : 'the piece'}.`
            : 'What it was cannot be made, so the view does not show it.'}
        </p>
      )}
      <ul>
        {found?.map((d) => (
          <li key={`${d.part} ${d.present}`}>
            {d.part && d.present && open.known.has(d.part) ? (
              <button
                type="button"
                className="bare"
                onClick={() => useEditor.getState().choose([d.part as string])}
              >
                {d.name}
              </button>
            ) : (
              <b>{d.name}</b>
            )}
            : {d.words.join(', ')}
          </li>
        ))}
      </ul>
    </section>
  );
}
