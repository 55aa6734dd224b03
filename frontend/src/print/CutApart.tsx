/** Cutting what is too large for the printer: planes, what holds the parts together, and how these fit. */
import { useState } from 'react';
import { ended } from '../api/jobs';
import type { Bed, CutLines, CutParts, Printer, useCutApart } from '../api/printing';
import { ChoiceField } from '../controls/fields/ChoiceField';
import { NumberField } from '../controls/fields/NumberField';
import { short, volume } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { JobBar } from '../jobs/JobBar';
import { nextPlane } from './nextPlane';

type Props = {
  open: Open;
  bed: Bed;
  printer: Printer;
  cutting: ReturnType<typeof useCutApart>;
  set: (changes: Partial<Bed>) => void;
};

const AXES = [
  { value: 'z', word: 'level, z' },
  { value: 'x', word: 'upright, x' },
  { value: 'y', word: 'upright, y' },
];
const PEGS = [
  { value: 'round', word: 'round pegs' },
  { value: 'square', word: 'square pegs' },
  { value: 'dovetail', word: 'dovetails' },
  { value: 'magnet', word: 'pockets for magnets, 6 × 2 mm' },
  { value: 'none', word: 'nothing' },
];
type Axis = CutLines['planes'][number]['axis'];

export function CutApart({ open, bed, printer, cutting, set }: Props) {
  const { planes, peg, clearance } = bed.cut;
  const [unfolded, setUnfolded] = useState(planes.length > 0);
  const change = (changes: Partial<CutLines>) => set({ cut: { ...bed.cut, ...changes } });
  const bounds = open.state.scene?.soundness?.bounds;
  const add = () => {
    if (bounds) change({ planes: [...planes, nextPlane(bounds as [number[], number[]], planes)] });
  };
  const edit = (i: number, changes: Partial<CutLines['planes'][number]>) =>
    change({ planes: planes.map((plane, k) => (k === i ? { ...plane, ...changes } : plane)) });
  const { job, parts } = cutting;
  return (
    <details
      className="section cut-apart"
      open={unfolded}
      onToggle={(e) => setUnfolded(e.currentTarget.open)}
    >
      <summary>
        <h3>Cut into parts</h3>
      </summary>
      <p className="quiet">
        For what is larger than the bed: parts that plug together. The piece stays whole.
      </p>
      {planes.map((plane, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a plane has no other name
        <div key={i} className="cut-plane">
          <ChoiceField
            label={`Plane ${i + 1}`}
            value={plane.axis}
            options={AXES}
            onApply={(axis) => edit(i, { axis: axis as Axis })}
          />
          <NumberField label={`At, mm (${i + 1})`} value={plane.at} onApply={(at) => edit(i, { at })} />
          <button
            type="button"
            className="icon-button"
            aria-label={`Leave out plane ${i + 1}`}
            onClick={() => change({ planes: planes.filter((_, k) => k !== i) })}
          >
            ×
          </button>
        </div>
      ))}
      <button type="button" className="plain small" disabled={!bounds || planes.length >= 12} onClick={add}>
        Add a plane
      </button>
      {planes.length > 0 && (
        <>
          <div className="fields two mt-2">
            <ChoiceField
              label="Held by"
              value={peg}
              options={PEGS}
              onApply={(word) => change({ peg: word as CutLines['peg'] })}
            />
            <NumberField
              label="Room, mm"
              value={clearance}
              least={0}
              most={5}
              title="Between pegs and sockets, on every side"
              onApply={(clearance) => change({ clearance })}
            />
          </div>
          <label className="d-block mt-2">
            <input
              type="checkbox"
              checked={bed.cut.labels}
              onChange={(e) => change({ labels: e.currentTarget.checked })}
            />{' '}
            a letter on the hidden faces: A goes to A
          </label>
          <button
            type="button"
            className="plain go mt-2"
            disabled={cutting.waiting || Boolean(job && !ended(job))}
            onClick={() => cutting.ask()}
          >
            Cut it
          </button>
        </>
      )}
      {cutting.error && <p className="text-danger">{cutting.error.message}</p>}
      {job && !ended(job) && <JobBar job={job} />}
      {job?.state === 'failed' && (
        <p className="text-danger mb-0" role="alert">
          {job.error}
        </p>
      )}
      {job && parts && <Parts job={job.id} parts={parts} printer={printer} held={peg !== 'none'} />}
    </details>
  );
}

type PartsProps = { job: string; parts: CutParts; printer: Printer; held: boolean };

function Parts({ job, parts, printer, held }: PartsProps) {
  const { least_gap_mm: least, greatest_gap_mm: greatest } = parts;
  const joined = parts.parts.some((p) => p.pegs + p.sockets > 0);
  return (
    <div className="mt-2" data-testid="cut-parts">
      <ol className="cut-list">
        {parts.parts.map(({ bounds, volume_mm3, sound, bodies, pegs, sockets }, i) => {
          const size = [0, 1, 2].map((k) => (bounds[1][k] as number) - (bounds[0][k] as number));
          const fits = size.every((v, k) => v <= (printer.bed[k] as number));
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a part has no other name
            <li key={i} className={sound && fits ? '' : 'text-danger'}>
              {size.map((v) => short(v, 1)).join(' × ')} mm, {volume(volume_mm3)}
              <span className="quiet">
                {' '}
                {sound ? 'sound' : bodies > 1 ? `${bodies} bodies` : 'not sound'}
                {fits ? '' : ', too large for the bed as it lies'}
                {pegs ? `, ${pegs} × peg` : ''}
                {sockets ? `, ${sockets} × hole` : ''}
              </span>
            </li>
          );
        })}
      </ol>
      {least !== null && greatest !== null && (
        <p className="mb-1">
          Measured room between pegs and holes: {short(least, 2)} to {short(greatest, 2)} mm.{' '}
          {parts.goes_together ? 'They go together.' : 'Some do not go together the way they are joined.'}
        </p>
      )}
      {held && !joined && <p className="mb-1">There is no room for anything that holds them: glue them.</p>}
      <a className="plain" href={`/api/jobs/${job}/cut/parts.zip`} download>
        Take the parts out (ZIP of 3MF)
      </a>
    </div>
  );
}
