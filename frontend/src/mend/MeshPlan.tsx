/** The plan for meshes that are not sound: which steps, with which measures; under way, and what came of it. */
import { useState } from 'react';
import type { Job, MendWishes, MeshFindings } from '../api/client';
import { ended, mendParts } from '../api/jobs';
import { ChoiceField } from '../controls/ChoiceField';
import { short, volume } from '../controls/format';
import { NumberField } from '../controls/NumberField';
import type { Open } from '../controls/PieceFrame';
import { JobBar } from '../jobs/JobBar';
import { stepWord } from '../jobs/words';

/** Steps that a maker may leave out, with the findings that they are for. */
const STEPS: { step: string; kinds: string[] }[] = [
  { step: 'zip_cracks', kinds: ['open_edges'] },
  { step: 'drop_useless', kinds: ['degenerate_faces', 'duplicate_faces'] },
  { step: 'orient', kinds: ['flipped_faces', 'inside_out_bodies'] },
  { step: 'separate', kinds: ['overshared_edges', 'pinched_vertices'] },
  { step: 'close_holes', kinds: ['open_edges'] },
  { step: 'mend_shells', kinds: ['self_intersections'] },
  { step: 'unite', kinds: ['self_intersections'] },
  { step: 'drop_crumbs', kinds: ['loose_bodies'] },
];

type Props = { open: Open; meshes: MeshFindings[]; jobs: Job[] };

export function MeshPlan({ open, meshes, jobs }: Props) {
  const [skip, setSkip] = useState<string[]>([]);
  const [bodies, setBodies] = useState<NonNullable<MendWishes['bodies']>>('leave');
  const [wall, setWall] = useState(0);
  const [resolution, setResolution] = useState(0);
  const [wrong, setWrong] = useState<string | null>(null);
  const flawed = meshes.filter((m) => m.sound === false);
  const under = jobs.find((j) => j.kind === 'mend' && !ended(j));
  const last = jobs.find((j) => j.kind === 'mend' && ended(j));
  const count = (kinds: string[]) =>
    flawed.flatMap((m) => m.findings).reduce((sum, f) => sum + (kinds.includes(f.kind) ? f.count : 0), 0);
  const sheet = Object.values((last?.result ?? {}) as Record<string, Mended>).find((m) => m.report.proposal);

  const mend = async () => {
    setWrong(null);
    try {
      const wishes: MendWishes = { skip, bodies, wall_mm: wall || null, resolution_mm: resolution || null };
      await mendParts(
        open.id,
        flawed.map((m) => m.part),
        wishes,
      );
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
    }
  };
  if (meshes.length === 0) return null;
  return (
    <>
      {flawed.length > 0 && (
        <div className="section" data-testid="mesh-plan">
          <h3>{flawed.length === 1 ? 'The mesh' : `${flawed.length} meshes`}</h3>
          <p className="quiet mb-2">in this order; untick what should stay</p>
          {STEPS.map(({ step, kinds }) => (
            <label key={step} className="plan-step">
              <input
                type="checkbox"
                checked={!skip.includes(step)}
                onChange={(e) =>
                  setSkip(e.currentTarget.checked ? skip.filter((s) => s !== step) : [...skip, step])
                }
              />
              <span>{stepWord(step)}</span>
              <b>{count(kinds).toLocaleString('en')}</b>
            </label>
          ))}
          <div className="fields mt-2">
            <NumberField
              label="Wall of sheets"
              title="what a surface without thickness gets; 0 leaves a mesh of nothing but sheets as it is"
              value={wall}
              least={0}
              most={100}
              onApply={setWall}
            />
            <NumberField
              label="Resurface at"
              title="rebuild the whole skin of triangles about this long; 0 does not"
              value={resolution}
              least={0}
              most={100}
              onApply={setResolution}
            />
            <ChoiceField
              label="Several bodies"
              value={bodies}
              options={[
                { value: 'leave', word: 'leave' },
                { value: 'bridge', word: 'bridge' },
                { value: 'largest', word: 'keep the largest' },
              ]}
              onApply={(v) => setBodies(v as NonNullable<MendWishes['bodies']>)}
            />
          </div>
          {!under && (
            <button type="button" className="plain go mt-2" onClick={() => void mend()}>
              Mend the piece
            </button>
          )}
          {wrong && (
            <p className="text-danger mt-2 mb-0" role="alert">
              {wrong}
            </p>
          )}
          {sheet && (
            <p className="mt-2 mb-0">
              {sheet.report.proposal?.why}. A wall of {short(sheet.report.proposal?.wall_mm ?? 0, 2)} mm would
              do.
            </p>
          )}
        </div>
      )}
      {under && (
        <div className="section">
          <JobBar job={under} />
        </div>
      )}
      {!under && last && <Outcome job={last} open={open} />}
    </>
  );
}

type Told = { triangles: number; bodies: number; volume_mm3: number; manifold: boolean };
type Mended = {
  report: Told & {
    before: Told;
    steps: { step: string; count: number }[];
    deviation_mm: number | null;
    typical_deviation_mm: number | null;
    seconds: number;
    proposal?: { why: string; wall_mm: number };
  };
};

function Outcome({ job, open }: { job: Job; open: Open }) {
  if (job.state === 'cancelled')
    return <p className="section quiet mb-0">The last mending was stopped; nothing was changed.</p>;
  if (job.state === 'failed')
    return (
      <p className="section text-danger mb-0" role="alert">
        {job.name}: {job.error}
      </p>
    );
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
            <dt title="also of what was dropped, or now lies inside">Farthest</dt>
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
