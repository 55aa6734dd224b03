/** What a mending did: before and after in numbers, its steps, and the report to take away. */
import type { Job } from '../api/client';
import type { Mended } from '../api/jobs';
import { short, volume } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { stepWord } from '../jobs/words';

export function MendReport({ job, open }: { job: Job; open: Open }) {
  return (
    <div className="section" data-testid="mend-report">
      <h3>Before → after</h3>
      {Object.entries(job.result as unknown as Record<string, Mended>).map(([part, { report }]) => (
        <div key={part}>
          <p className="mb-1">
            <b>{open.known.get(part)?.part.name ?? job.name}</b>
          </p>
          <dl className="before-after">
            <dt>Closed</dt>
            <dd>
              {yes(report.before.manifold)} → {yes(report.manifold)}
            </dd>
            <dt>Bodies</dt>
            <dd>
              {report.before.bodies} → {report.bodies}
            </dd>
            <dt>Triangles</dt>
            <dd>
              {report.before.triangles.toLocaleString('en')} → {report.triangles.toLocaleString('en')}
            </dd>
            <dt>Volume</dt>
            <dd>
              {volume(report.before.volume_mm3)} → {volume(report.volume_mm3)}
            </dd>
            <dt>Moved on average</dt>
            <dd>
              {report.typical_deviation_mm === null ? '-' : `${short(report.typical_deviation_mm, 3)} mm`}
            </dd>
            <dt>Farthest, with what was dropped</dt>
            <dd>{report.deviation_mm === null ? '-' : `${short(report.deviation_mm, 2)} mm`}</dd>
          </dl>
          <ol className="ps-3 mb-2">
            {report.steps.map((s, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a step may come twice
              <li key={i}>
                {stepWord(s.step)}: {s.count.toLocaleString('en')}
              </li>
            ))}
            {report.steps.length === 0 && <li>nothing needed mending</li>}
          </ol>
        </div>
      ))}
      <p className="mb-0">
        Report: <a href={`/api/jobs/${job.id}/report.html`}>to read</a>,{' '}
        <a href={`/api/jobs/${job.id}/report.json`}>as data</a>
      </p>
    </div>
  );
}

const yes = (value: boolean) => (value ? 'yes' : 'no');
