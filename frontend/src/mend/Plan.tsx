/** The right side of Mend: what can be done about the findings, and bringing a mesh in. */
import { NavLink } from 'react-router';
import type { Job, MeshFindings } from '../api/client';
import type { Open } from '../controls/PieceFrame';
import { BringIn } from './BringIn';
import type { Finding } from './findingList';
import { MeshPlan } from './MeshPlan';

/** findings: of the recipe. meshes: what was found in its meshes. jobs: of this piece, the newest first. */
type Props = { open: Open; findings: Finding[]; meshes: MeshFindings[]; jobs: Job[] };

export function Plan({ open, findings, meshes, jobs }: Props) {
  const sound = meshes.every((m) => m.sound);
  const fixable = findings.filter((f) => f.fix);
  return (
    <aside className="side right" aria-label="Mending plan">
      <div className="pad">
        <h2>Mending plan</h2>
        <div className="quiet">each step can be undone</div>
      </div>
      <div className="px-3 pb-2">
        {findings.length === 0 && sound && <p className="mb-0">There is nothing to mend in this piece.</p>}
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
      <MeshPlan open={open} meshes={meshes} jobs={jobs} />
      <BringIn open={open} jobs={jobs} />
      <p className="section quiet mb-0">
        <NavLink to="/jobs">All long work</NavLink>, also of other pieces
      </p>
    </aside>
  );
}
