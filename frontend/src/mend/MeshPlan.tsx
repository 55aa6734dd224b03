/** The plan for meshes that are not sound: which steps, with which measures, and what they would do; then under way, and what came of it. */
import { useState } from 'react';
import { type Job, type MendOptions, type MeshFindings, said } from '../api/client';
import { ended, type Mended, mendParts, useRehearsal } from '../api/jobs';
import { ChoiceField } from '../controls/fields/ChoiceField';
import { NumberField } from '../controls/fields/NumberField';
import type { Open } from '../controls/PieceFrame';
import { JobBar } from '../jobs/JobBar';
import { stepWord } from '../jobs/words';
import { MendReport } from './MendReport';
import { Outlook } from './Outlook';

/** Steps that a maker may leave out, in the order of the plan. */
const STEPS = [
  'zip_cracks',
  'drop_useless',
  'turn_slivers',
  'orient',
  'separate',
  'drop_crumbs',
  'drop_inner',
  'close_holes',
  'mend_shells',
  'unite',
  'draw_apart',
  'untangle',
  'patch_over',
  'steady',
];

/** Measures that a maker may give; 0 leaves them out. */
const MEASURES = [
  { key: 'weld_mm', label: 'Weld within', title: 'mm; points nearer than this become one' },
  { key: 'crumb_mm3', label: 'Crumbs under', title: 'mm³; separate bodies smaller than this are dropped' },
  {
    key: 'wall_mm',
    label: 'Sheet walls',
    title: 'mm; what a surface without thickness gets; 0 leaves a mesh of nothing but sheets as it is',
  },
  {
    key: 'resolution_mm',
    label: 'Resurface at',
    title: 'mm; rebuild the whole skin of triangles about this long; 0 does not',
  },
] as const;

/** A larger mesh is tried out when the maker asks for it. */
const TRIED_AT_ONCE = 300_000;

const NO_OPTIONS: MendOptions = { skip: [], bodies: 'leave' };

type Props = { open: Open; meshes: MeshFindings[]; jobs: Job[] };

export function MeshPlan({ open, meshes, jobs }: Props) {
  const [options, setOptions] = useState(NO_OPTIONS);
  const [asked, setAsked] = useState(false);
  const [wrong, setWrong] = useState<string | null>(null);
  const skip = options.skip ?? [];
  const flawed = meshes.filter((m) => m.sound === false);
  const under = jobs.find((j) => j.kind === 'mend' && !ended(j));
  const last = jobs.find((j) => j.kind === 'mend' && ended(j));
  const small = flawed.reduce((sum, m) => sum + (m.triangles ?? 0), 0) <= TRIED_AT_ONCE;
  const rehearsed = useRehearsal(open.id, flawed, options, !under && (small || asked));
  const trying = jobs.find((j) => j.id === rehearsed?.id) ?? rehearsed;
  const tried = (trying?.state === 'done' ? trying.result : null) as Record<string, Mended> | null;
  const change = (more: Partial<MendOptions>) => setOptions({ ...options, ...more });

  const mend = async () => {
    setWrong(null);
    try {
      await mendParts(
        open.id,
        flawed.map((m) => m.part),
        options,
      );
    } catch (error) {
      setWrong(said(error));
    }
  };
  if (meshes.length === 0) return null;
  return (
    <>
      {flawed.length > 0 && (
        <div className="section" data-testid="mesh-plan">
          <h3>{flawed.length === 1 ? 'The mesh' : `${flawed.length} meshes`}</h3>
          <p className="quiet mb-2">in this order; untick what should stay as it is</p>
          {STEPS.map((step) => {
            const count = tried ? counted(tried, step) : null;
            return (
              <label key={step} className={`plan-step ${count === 0 ? 'idle' : ''}`}>
                <input
                  type="checkbox"
                  checked={!skip.includes(step)}
                  onChange={(e) =>
                    change({
                      skip: e.currentTarget.checked ? skip.filter((s) => s !== step) : [...skip, step],
                    })
                  }
                />
                <span>{stepWord(step)}</span>
                <b>{count === null ? '…' : count.toLocaleString('en')}</b>
              </label>
            );
          })}
          <p className="quiet mt-2 mb-0">in mm, crumbs in mm³; 0 leaves it to the plan</p>
          <div className="fields">
            {MEASURES.map(({ key, label, title }) => (
              <NumberField
                key={key}
                label={label}
                title={title}
                value={options[key] ?? 0}
                least={0}
                most={key === 'crumb_mm3' ? 1e6 : 100}
                onApply={(value) => change({ [key]: value || null })}
              />
            ))}
            <ChoiceField
              label="Several bodies"
              value={options.bodies ?? 'leave'}
              options={[
                { value: 'leave', word: 'leave' },
                { value: 'bridge', word: 'bridge' },
                { value: 'largest', word: 'keep the largest' },
              ]}
              onApply={(v) => change({ bodies: v as MendOptions['bodies'] })}
            />
          </div>
          {!under && (
            <Outlook
              trying={trying}
              tried={tried}
              ask={small || asked ? null : () => setAsked(true)}
              known={open.known}
            />
          )}
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

/** What a step did in all meshes together; some steps come more than once. */
function counted(tried: Record<string, Mended>, step: string): number {
  return Object.values(tried)
    .flatMap(({ report }) => report.steps)
    .reduce((sum, s) => sum + (s.step === step ? s.count : 0), 0);
}

function Outcome({ job, open }: { job: Job; open: Open }) {
  if (job.state === 'cancelled')
    return <p className="section quiet mb-0">The last mending was stopped; nothing was changed.</p>;
  if (job.state === 'failed')
    return (
      <p className="section text-danger mb-0" role="alert">
        {job.name}: {job.error}
      </p>
    );
  return stillHas(open, job) ? <MendReport job={job} open={open} /> : null;
}

/** Whether a piece still has a mesh that a job made of one of its parts; not once that is undone. */
function stillHas(open: Open, job: Job): boolean {
  const made = Object.entries(job.result as Record<string, Mended>);
  return made.some(([part, { sha256 }]) => open.known.get(part)?.part.mesh?.asset === sha256);
}
