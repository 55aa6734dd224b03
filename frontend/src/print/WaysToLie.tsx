/** Ways to lay the piece on the bed, found by a job, to choose one from. */
import { useState } from 'react';
import { ended } from '../api/jobs';
import { type Bed, useWaysToLie, type WayToLie } from '../api/printing';
import { short, volume } from '../controls/format';
import { JobBar } from '../jobs/JobBar';

type Props = { id: string; bed: Bed; set: (changes: Partial<Bed>) => void };

export function WaysToLie({ id, bed, set }: Props) {
  const [open, setOpen] = useState(false);
  const { ask, error, job } = useWaysToLie(id);
  const ways = job?.state === 'done' ? ((job.result?.ways as WayToLie[] | undefined) ?? []) : [];
  return (
    <div className="mt-2">
      <button
        type="button"
        className="plain small"
        aria-expanded={open}
        onClick={() => {
          if (!open) ask();
          setOpen(!open);
        }}
      >
        {open ? 'Ways to lie: close' : 'Ways to lie …'}
      </button>{' '}
      {!upright(bed) && (
        <button type="button" className="plain small" onClick={() => set({ down: [0, 0, -1] })}>
          As it was made
        </button>
      )}
      {open && error && <p className="text-danger">{error.message}</p>}
      {open && job && !ended(job) && <JobBar job={job} />}
      {open && job?.state === 'failed' && <p className="text-danger">{job.error}</p>}
      {open && ways.length > 0 && (
        <table className="ways">
          <caption>pick one to lay it so; support is what stands under overhangs</caption>
          <thead>
            <tr>
              <th scope="col">support</th>
              <th scope="col">high, mm</th>
              <th scope="col">on the bed, cm²</th>
              <th scope="col" title="the smallest layer: where it would break first">
                neck, cm²
              </th>
            </tr>
          </thead>
          <tbody>
            {ways.map((way, i) => (
              <Way
                key={way.down.join()}
                way={way}
                first={i === 0}
                now={same(way.down, bed.down)}
                filled={bed.settings.support || 1}
                set={set}
              />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

type WayProps = {
  way: WayToLie;
  first: boolean;
  now: boolean;
  /** The share of the room for support that is filled. */
  filled: number;
  set: (changes: Partial<Bed>) => void;
};

function Way({ way, first, now, filled, set }: WayProps) {
  const words = [...(first ? ['as it was made'] : []), ...way.best_for].join(', ');
  return (
    <>
      {words && (
        <tr className="words">
          <td colSpan={4}>{words}</td>
        </tr>
      )}
      <tr className={now ? 'now' : ''}>
        <td>
          <button
            type="button"
            className="plain small"
            aria-pressed={now}
            onClick={() => set({ down: way.down })}
          >
            {volume(way.support * filled)}
          </button>
        </td>
        <td>{short(way.height, 1)}</td>
        <td>{short(way.rests_on / 100, 1)}</td>
        <td>{short(way.neck / 100, 2)}</td>
      </tr>
    </>
  );
}

/** Whether it lies as it was made. */
export const upright = ({ down }: Bed) => same(down, [0, 0, -1]);

const same = (a: readonly number[], b: readonly number[]) =>
  a.every((v, i) => Math.abs(v - (b[i] ?? 0)) < 1e-6);
