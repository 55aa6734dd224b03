/** The right side of Mend: what can be done about the findings, and bringing a mesh in. */
import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { answered, api, type BroughtIn, rawBody } from '../api/client';
import { keepState } from '../api/pieces';
import { plural, short } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import type { Finding } from './findingList';

type Props = {
  open: Open;
  findings: Finding[];
  report: BroughtIn | null;
  onReport: (report: BroughtIn | null) => void;
};

export function Plan({ open, findings, report, onReport }: Props) {
  const fixable = findings.filter((f) => f.fix);
  return (
    <aside className="side right" aria-label="Mending plan">
      <div className="pad">
        <h2>Mending plan</h2>
        <div className="quiet">each step can be undone</div>
      </div>
      <div className="px-3 pb-3">
        {findings.length === 0 && <p className="mb-0">There is nothing to mend in this piece.</p>}
        {findings.map((f) => (
          <div key={f.id} className="d-flex justify-content-between align-items-center gap-2 mb-2">
            <span>{f.title}</span>
            {f.fix ? (
              <button
                type="button"
                className="plain small"
                onClick={() => f.fix && void open.work.edit(f.fix.edit)}
              >
                Sink together
              </button>
            ) : (
              <span className="quiet" title="its parts are also part of the main body, or it has copies">
                move it in Make
              </span>
            )}
          </div>
        ))}
        {fixable.length > 0 && (
          <p className="quiet mb-0">
            Sinking moves a part 0.4 mm into its neighbour, one line of a common nozzle, so that the join is
            real.
          </p>
        )}
      </div>
      <BringIn open={open} onReport={onReport} />
      {report && <Report report={report} name={open.known.get(report.part)?.part.name ?? 'the mesh'} />}
      <div className="section">
        <h3>Not yet</h3>
        <div className="quiet">
          Surfaces that run through themselves are not looked for yet; torn, tangled or thin meshes are named
          but not rebuilt, and only STL is read.
        </div>
      </div>
    </aside>
  );
}

function BringIn({ open, onReport }: { open: Open; onReport: (report: BroughtIn | null) => void }) {
  const client = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const bring = async (file: File | undefined) => {
    if (!file) return;
    setBusy(file.name);
    setWrong(null);
    onReport(null);
    try {
      const name = file.name.replace(/\.[^.]*$/, '').slice(0, 80) || 'Mesh';
      const answer = await answered<BroughtIn>(
        api.POST('/api/pieces/{piece_id}/bring-in', {
          params: { path: { piece_id: open.id }, query: { name } },
          ...rawBody(file),
        }),
      );
      keepState(client, answer.state);
      onReport(answer);
    } catch (error) {
      setWrong(`${file.name}: ${error instanceof Error ? error.message : String(error)}`);
    } finally {
      setBusy(null);
    }
  };
  return (
    <div className="section">
      <h3>Bring in a mesh</h3>
      <p className="quiet mb-2">
        An STL file becomes a part of this piece, in millimetres, standing in the middle of the wheel.
      </p>
      <button
        type="button"
        className="plain"
        disabled={busy !== null}
        onClick={() => chooser.current?.click()}
      >
        {busy ? `Reading ${busy} …` : 'Choose an STL file'}
      </button>
      <input
        ref={chooser}
        type="file"
        hidden
        accept=".stl"
        aria-label="STL file"
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          e.currentTarget.value = '';
          void bring(file);
        }}
      />
      {wrong && (
        <p className="text-danger mt-2 mb-0" role="alert">
          {wrong}
        </p>
      )}
    </div>
  );
}

const STEPS: Record<string, (n: number) => string> = {
  weld: (n) => `${plural(n, 'point')} welded`,
  drop_degenerate_and_duplicate: (n) => `${plural(n, 'useless triangle')} dropped`,
  orient: (n) => `${plural(n, 'triangle')} turned outward`,
  close_holes: (n) => `${plural(n, 'hole')} closed`,
  drop_crumbs: (n) => `${plural(n, 'crumb')} dropped`,
};
const FLAWS: Record<string, string> = {
  open_edges: 'open edges',
  overshared_edges: 'overshared edges',
  pinched_vertices: 'pinches',
  flipped_faces: 'faces turned against their neighbours',
  inside_out_bodies: 'bodies inside out',
  degenerate_faces: 'slivers',
  duplicate_faces: 'doubles',
  loose_bodies: 'loose bodies',
};

function Report({ report, name }: { report: BroughtIn; name: string }) {
  return (
    <div className="section" data-testid="bring-in-report">
      <h3>{name}</h3>
      <ul className="ps-3 mb-2">
        {report.steps.length === 0 && <li>nothing needed mending</li>}
        {report.steps.map((s) => (
          <li key={s.step}>{STEPS[s.step]?.(s.count) ?? `${s.step}: ${s.count}`}</li>
        ))}
        {report.steps.length > 0 && report.deviation_mm !== null && (
          <li>surface moved at most {short(report.deviation_mm, 3)} mm</li>
        )}
      </ul>
      {report.findings_after.length > 0 && (
        <p className="mb-1">
          Still there:{' '}
          {report.findings_after
            .map((f) => `${f.count.toLocaleString('en')} ${FLAWS[f.kind] ?? f.kind}`)
            .join(', ')}
          .
        </p>
      )}
      <p className="mb-0">
        {report.sound
          ? 'It is closed, and can be joined and cut.'
          : 'It is not closed, so it is shown but left out of the result.'}
      </p>
    </div>
  );
}
