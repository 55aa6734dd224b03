/** Bringing a mesh in: sent, read, its unit asked where the file has none, and put on the wheel. */
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { Job, LengthUnit } from '../api/client';
import { ended, putMesh, sendMesh } from '../api/jobs';
import { keepState } from '../api/pieces';
import { short } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { JobBar } from '../jobs/JobBar';

const ENDINGS = '.stl,.3mf,.obj,.ply,.glb';
const UNITS: { unit: LengthUnit; mm: number; word: string }[] = [
  { unit: 'millimeter', mm: 1, word: 'millimetres' },
  { unit: 'centimeter', mm: 10, word: 'centimetres' },
  { unit: 'inch', mm: 25.4, word: 'inches' },
  { unit: 'meter', mm: 1000, word: 'metres' },
];

type Read = { unit: LengthUnit | null; size: [number, number, number]; triangles: number };

export function BringIn({ open, jobs }: { open: Open; jobs: Job[] }) {
  const client = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [sending, setSending] = useState<{ name: string; share: number; stop: () => void } | null>(null);
  const [mine, setMine] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const job = jobs.find((j) => j.id === mine) ?? null;
  const read = job?.state === 'done' ? (job.result as unknown as Read) : null;

  const bring = async (file: File | undefined) => {
    if (!file) return;
    setWrong(null);
    setMine(null);
    const { sent, stop } = sendMesh(open.id, file, (share) => setSending({ name: file.name, share, stop }));
    setSending({ name: file.name, share: 0, stop });
    try {
      const job = await sent;
      setMine(job.id);
      await client.invalidateQueries({ queryKey: ['jobs'] });
    } catch (error) {
      setWrong(`${file.name}: ${error instanceof Error ? error.message : String(error)}`);
    } finally {
      setSending(null);
    }
  };
  const put = async (unit: LengthUnit | null) => {
    if (!job) return;
    setMine(null);
    try {
      keepState(client, await putMesh(open.id, job.id, open.state.revision, unit));
    } catch (error) {
      setWrong(`${job.name}: ${error instanceof Error ? error.message : String(error)}`);
    }
  };
  // A file that knows its unit needs no question.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for every job that has been read
  useEffect(() => {
    if (read?.unit) void put(null);
  }, [read?.unit, job?.id]);

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
        void bring(e.dataTransfer.files[0]);
      }}
    >
      <h3>Bring in a mesh</h3>
      {!sending && !job && (
        <p className="quiet mb-2">
          STL, 3MF, OBJ, PLY or GLB. Drop a file here or choose one; it becomes a part of this piece.
        </p>
      )}
      {!sending && (!job || ended(job)) && !read && (
        <button type="button" className="plain" onClick={() => chooser.current?.click()}>
          Choose a file
        </button>
      )}
      <input
        ref={chooser}
        type="file"
        hidden
        accept={ENDINGS}
        aria-label="Mesh file"
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          e.currentTarget.value = '';
          void bring(file);
        }}
      />
      {sending && (
        <div className="job-bar">
          <progress max={1} value={sending.share} aria-label={`Sending ${sending.name}`} />
          <div className="d-flex justify-content-between align-items-center mt-1">
            <span className="quiet">Sending {sending.name} …</span>
            <button type="button" className="plain small" onClick={sending.stop}>
              Stop
            </button>
          </div>
        </div>
      )}
      {job && !ended(job) && <JobBar job={job} />}
      {read && !read.unit && job && <AskUnit name={job.name} read={read} choose={(unit) => void put(unit)} />}
      {(wrong || job?.state === 'failed') && (
        <p className="text-danger mt-2 mb-0" role="alert">
          {wrong ?? `${job?.name}: ${job?.error}`}
        </p>
      )}
    </section>
  );
}

function AskUnit({ name, read, choose }: { name: string; read: Read; choose: (unit: LengthUnit) => void }) {
  return (
    <div data-testid="ask-unit">
      <p className="mb-1">
        <b>{name}</b> has {read.triangles.toLocaleString('en')} triangles. Its file does not say in which
        unit:
      </p>
      {UNITS.map(({ unit, mm, word }) => (
        <button key={unit} type="button" className="unit-choice" onClick={() => choose(unit)}>
          <span>{word}</span>
          <span className="quiet">{read.size.map((s) => short(s * mm, 1)).join(' × ')} mm</span>
        </button>
      ))}
    </div>
  );
}
