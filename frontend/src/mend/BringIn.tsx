/** Bringing meshes in, by button or drop: how far each is, and the question in which unit it is. */
import { useState } from 'react';
import type { Job, LengthUnit } from '../api/client';
import { ended } from '../api/jobs';
import { FileButton } from '../controls/FileButton';
import { plural, short } from '../controls/format';
import { MESH_ENDINGS } from '../controls/meshFiles';
import type { Open } from '../controls/PieceFrame';
import { JobBar } from '../jobs/JobBar';
import { type Coming, type Read, useBringIn } from './useBringIn';

const UNITS: { unit: LengthUnit; mm: number; word: string }[] = [
  { unit: 'millimeter', mm: 1, word: 'millimetres' },
  { unit: 'centimeter', mm: 10, word: 'centimetres' },
  { unit: 'inch', mm: 25.4, word: 'inches' },
  { unit: 'meter', mm: 1000, word: 'metres' },
];

type Props = { open: Open; jobs: Job[] };

export function BringIn({ open, jobs }: Props) {
  const { coming, bring, put, leave, remove, jobOf, readOf } = useBringIn(open, jobs);
  const [over, setOver] = useState(false);
  const asking = coming.filter((c) => !c.wrong && !c.putting && readOf(c) && !readOf(c)?.unit);
  const [first] = asking;
  const read = first && readOf(first);
  return (
    <section
      className={`section drop ${over ? 'over' : ''}`}
      aria-label="Bring in a mesh"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        bring(e.dataTransfer.files);
      }}
    >
      <h3>Bring in a mesh</h3>
      {coming.length === 0 && (
        <p className="quiet mb-2">
          STL, 3MF, OBJ, PLY or GLB. Drop files here or choose them; each becomes a part of this piece.
        </p>
      )}
      {coming.map((c) => {
        const job = jobOf(c);
        if (c === first) return null;
        if (c.wrong || job?.state === 'failed')
          return (
            <p key={c.key} className="coming text-danger" role="alert">
              <span>
                {c.name}: {c.wrong ?? job?.error}
              </span>
              <button type="button" className="plain small" onClick={() => remove(c.key)}>
                Dismiss
              </button>
            </p>
          );
        if (job?.state === 'cancelled') return null;
        if (job && !ended(job))
          return (
            <div key={c.key}>
              <b>{c.name}</b>
              <JobBar job={job} />
            </div>
          );
        if (readOf(c))
          return (
            <p key={c.key} className="coming quiet">
              {c.name} is read
            </p>
          );
        return <Sending key={c.key} coming={c} drop={() => remove(c.key)} />;
      })}
      {first && read && (
        <AskUnit
          name={first.name}
          read={read}
          more={asking.length - 1}
          choose={(unit, all) => void put(all ? asking : [first], unit)}
          leave={(all) => void leave(all ? asking : [first])}
        />
      )}
      <FileButton
        word={coming.length ? 'Choose more files' : 'Choose files'}
        label="Mesh file"
        accept={MESH_ENDINGS}
        several
        onFiles={bring}
      />
    </section>
  );
}

function Sending({ coming, drop }: { coming: Coming; drop: () => void }) {
  return (
    <div className="job-bar">
      <progress max={1} value={coming.share} aria-label={`Sending ${coming.name}`} />
      <div className="d-flex justify-content-between align-items-center mt-1">
        <span className="quiet">
          {coming.stop || coming.job ? `Sending ${coming.name} …` : `${coming.name} waits its turn`}
        </span>
        <button type="button" className="plain small" onClick={coming.stop ?? drop}>
          Stop
        </button>
      </div>
    </div>
  );
}

type AskProps = {
  name: string;
  read: Read;
  /** How many more files ask the same. */
  more: number;
  choose: (unit: LengthUnit, all: boolean) => void;
  leave: (all: boolean) => void;
};

function AskUnit({ name, read, more, choose, leave }: AskProps) {
  const [all, setAll] = useState(true);
  return (
    <div className="mb-2" data-testid="ask-unit">
      <p className="mb-1">
        <b>{name}</b> has {read.triangles.toLocaleString('en')} triangles. Its file does not say in which
        unit:
      </p>
      {UNITS.map(({ unit, mm, word }) => (
        <button
          key={unit}
          type="button"
          className="unit-choice"
          onClick={() => choose(unit, all && more > 0)}
        >
          <span>{word}</span>
          <span className="quiet">{read.size.map((s) => short(s * mm, 1)).join(' × ')} mm</span>
        </button>
      ))}
      <button type="button" className="plain small mt-2" onClick={() => leave(all && more > 0)}>
        Leave it out
      </button>
      {more > 0 && (
        <label className="mt-2">
          <input type="checkbox" checked={all} onChange={(e) => setAll(e.currentTarget.checked)} /> the same
          for {plural(more, 'more file')}
        </label>
      )}
    </div>
  );
}
