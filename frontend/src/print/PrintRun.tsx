/** A simulated print: begun, followed layer by layer, paused and stopped. */
import { type RunState, underWay, usePrintRun } from '../api/printRun';
import { duration } from '../controls/format';

type Props = { job: string; layers: number; follow: (layer: number) => void };

const WORDS: Record<RunState['state'], string> = {
  printing: 'printing',
  paused: 'paused',
  done: 'done',
  stopped: 'stopped',
  failed: 'failed',
};

export function PrintRun({ job, layers, follow }: Props) {
  const { run, begin, say } = usePrintRun(job, ({ layer }) => follow(layer));
  const going = run && underWay(run);
  return (
    <div className="print-run" data-testid="print-run">
      {run && (
        <>
          <progress
            max={1}
            value={run.share}
            aria-label={`Simulated print: ${Math.round(100 * run.share)}%`}
          />
          <p className="mb-1 numbers" role="status">
            {run.message ??
              `${WORDS[run.state]} · layer ${run.layer + 1} of ${layers.toLocaleString('en')} · ${
                run.state === 'done' ? 'nothing' : duration(run.left)
              } left`}
          </p>
        </>
      )}
      {going ? (
        <div className="d-flex gap-2">
          <button
            type="button"
            className="plain small"
            onClick={() => say(run.state === 'paused' ? 'resume' : 'pause')}
          >
            {run.state === 'paused' ? 'Go on' : 'Pause it'}
          </button>
          <button type="button" className="plain small" onClick={() => say('stop')}>
            Stop it
          </button>
        </div>
      ) : (
        <button
          type="button"
          className="plain small"
          title="As a printer would go, but quicker: it takes less than a minute"
          onClick={begin}
        >
          {run ? 'Run it again' : 'Run it'}
        </button>
      )}
    </div>
  );
}
