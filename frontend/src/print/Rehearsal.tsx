/** The right side of Print: what printing takes, what to look at first, and taking the piece out. */
import type { ReactNode } from 'react';
import type { Job } from '../api/client';
import { ended } from '../api/jobs';
import type { Checked, Lying, Place, PrintDetails } from '../api/printing';
import { duration, plural, short, volume } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { ShowLink } from '../controls/ShowLink';
import { JobBar } from '../jobs/JobBar';
import { MakingOf } from './MakingOf';
import { PrintRun } from './PrintRun';
import { TakeOut } from './TakeOut';
import { Turntable } from './Turntable';

type Props = {
  open: Open;
  job: Job | undefined;
  /** Rehearses once more, after it was stopped. */
  again: () => void;
  lies: Lying | undefined;
  copies: number;
  details: PrintDetails | undefined;
  show: (at: number[]) => void;
  /** Shows a layer that is being printed. */
  follow: (layer: number) => void;
  /** What stands between what to look at and taking it out. */
  children?: ReactNode;
};

export function Rehearsal({ open, job, again, lies, copies, details, show, follow, children }: Props) {
  const checked = job?.state === 'done' ? (job.result as unknown as Checked) : undefined;
  const number = lies?.fits ? Math.min(copies, lies.spots.length) : 1;
  const { making, problem, scene } = open.state;
  return (
    <aside className="side right" aria-label="Rehearsal">
      <div className="pad">
        <h2>Rehearsal</h2>
        <div className="quiet">a simulated print; no printer is needed</div>
      </div>
      <div className="section" aria-live="polite">
        {problem && <p className="text-danger mb-0">{problem.message}</p>}
        {making && <p className="quiet mb-0">The piece is being made …</p>}
        {job && !ended(job) && <JobBar job={job} />}
        {job?.state === 'failed' && <p className="text-danger mb-0">{job.error}</p>}
        {job?.state === 'cancelled' && (
          <p className="quiet mb-0">
            Stopped.{' '}
            <button type="button" className="plain small" onClick={again}>
              Rehearse again
            </button>
          </p>
        )}
        {checked && <Figures checked={checked} number={number} beside={(lies?.beside.length ?? 0) > 0} />}
        {job && checked && <PrintRun job={job.id} layers={checked.layers} follow={follow} />}
      </div>
      {checked && details && <LookHere checked={checked} details={details} show={show} />}
      {children}
      <TakeOut open={open} sound={scene?.soundness?.sound ?? true} />
      <MakingOf open={open} />
      <Turntable open={open} />
      <ShowLink id={open.id} />
    </aside>
  );
}

function Figures({ checked, number, beside }: { checked: Checked; number: number; beside: boolean }) {
  const share = `± ${short(100 * checked.uncertainty)} %`;
  const rows: [string, string, string?][] = [
    ['Time', duration(checked.seconds * number), share],
    [
      'Filament',
      `${short(checked.mass_g * number, 1)} g · ${short((checked.filament_mm * number) / 1000, 1)} m`,
      share,
    ],
    ['Cost', (checked.rehearsal.cost * number).toFixed(2), 'in the currency of the filament’s price'],
    ['Layers', checked.layers.toLocaleString('en')],
    ['Overhangs', `${short(checked.overhang_mm2 / 100, 1)} cm²`, 'leaning out by more than 45°'],
    ['Support', volume(checked.rehearsal.support * number)],
    ['Thinnest wall', checked.thinnest_mm === null ? 'none' : `${short(checked.thinnest_mm, 2)} mm`],
  ];
  const tip = checked.printed_tip_angle_deg;
  if (tip !== undefined)
    rows.push([
      'Falls, as filled',
      tip > 0 ? `past ${short(tip, 1)}°` : 'by itself',
      'walls, skins and infill weighed as they are laid, not as if all were solid',
    ]);
  return (
    <>
      <dl className="before-after">
        {rows.map(([word, figure, about]) => (
          <div key={word} style={{ display: 'contents' }} title={about}>
            <dt>{word}</dt>
            <dd className="numbers">{figure}</dd>
          </div>
        ))}
      </dl>
      <p className="quiet mb-0">
        {number > 1 ? `for ${number} copies; ` : ''}
        {beside ? 'without what lies beside it; ' : ''}time, filament and cost may be off by {share.slice(2)}
      </p>
    </>
  );
}

/** Whatever may go wrong, each kind with its places. */
function LookHere({
  checked,
  details,
  show,
}: {
  checked: Checked;
  details: PrintDetails;
  show: Props['show'];
}) {
  const { islands, bridges, thin, fine, hollows } = details;
  const kinds: { title: string; about: string; places: { at: number[]; word: string }[]; more: number }[] = [
    {
      title: plural(checked.islands, 'island'),
      about: 'Layers that begin in the air: they need support.',
      places: islands.map((p) => ({ at: p.at, word: `${short(p.at[2], 1)} mm up, ${area(p)}` })),
      more: checked.islands - islands.length,
    },
    {
      title: plural(bridges.length, 'bridge'),
      about: 'Spans over the air from one side to another: short ones hold.',
      places: bridges.map((p) => ({ at: p.at, word: `${short(p.at[2], 1)} mm up, ${area(p)}` })),
      more: 0,
    },
    {
      title: plural(thin.length, 'thin place'),
      about: 'Thinner than two lines of this nozzle: they may break or be left out.',
      places: thin.map((p) => ({ at: p.at, word: `${short(p.size, 2)} mm` })),
      more: 0,
    },
    {
      title: `${plural(fine.length, 'detail')} too fine`,
      about: 'Narrower than the nozzle: no line finds room there, so they are left out.',
      places: fine.map((p) => ({ at: p.at, word: `${short(p.at[2], 1)} mm up, ${area(p)}` })),
      more: 0,
    },
    {
      title: plural(hollows.length, 'shut-in hollow'),
      about: 'Supports or resin cannot leave them: a hole at the lowest place drains one.',
      places: hollows.map((h) => ({ at: h.at, word: volume(h.volume) })),
      more: 0,
    },
  ].filter((kind) => kind.places.length > 0);
  return (
    <div className="section" data-testid="look-here">
      <h3>Look here</h3>
      {kinds.length === 0 && <p className="quiet mb-0">Nothing hangs in the air, and nothing is thin.</p>}
      {kinds.map(({ title, about, places, more }) => (
        <details key={title}>
          <summary>{title}</summary>
          <p className="quiet mb-1">{about}</p>
          <div className="places">
            {places.map(({ at, word }) => (
              <button key={at.join()} type="button" className="plain small" onClick={() => show(at)}>
                {word}
              </button>
            ))}
          </div>
          {more > 0 && <p className="quiet mb-0">and {more.toLocaleString('en')} more</p>}
        </details>
      ))}
    </div>
  );
}

const area = (place: Place) => `${short(place.size, 1)} mm²`;
