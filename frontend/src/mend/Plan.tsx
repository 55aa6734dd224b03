/** The right side of Mend: what can be mended in the recipe and in meshes, and bringing a mesh in. */
import { NavLink } from 'react-router';
import type { Job, MeshFindings } from '../api/client';
import type { Open } from '../controls/PieceFrame';
import { BringIn } from './BringIn';
import { FixButton, type RunFix } from './FixButton';
import { type Finding, recipeFix } from './finding';
import { MeshPlan } from './MeshPlan';

/** findings: of the recipe. meshes: what was found in its meshes. jobs: of this piece, the newest first. */
type Props = {
  open: Open;
  findings: Finding[];
  meshes: MeshFindings[];
  jobs: Job[];
  run: RunFix;
};

export function Plan({ open, findings, meshes, jobs, run }: Props) {
  const sound = meshes.every((m) => m.sound);
  return (
    <aside className="side right" aria-label="Mending plan">
      <div className="pad">
        <h2>Mending plan</h2>
        <div className="quiet">each step can be undone</div>
        {findings.length === 0 && sound && (
          <p className="mt-2 mb-0">There is nothing to mend in this piece.</p>
        )}
      </div>
      {findings.length > 0 && <RecipePlan findings={findings} run={run} />}
      <MeshPlan open={open} meshes={meshes} jobs={jobs} />
      <BringIn open={open} jobs={jobs} />
      <p className="section quiet mb-0">
        <NavLink to="/jobs">All long work</NavLink>, also of other pieces
      </p>
    </aside>
  );
}

/** The first thing to do about each finding, one by one or all as one step. */
function RecipePlan({ findings, run }: { findings: Finding[]; run: RunFix }) {
  const all = recipeFix(findings);
  return (
    <div className="section" data-testid="recipe-plan">
      <h3>The recipe</h3>
      <p className="quiet mb-2">in the parts themselves, so that all stays adjustable</p>
      {findings.map((f) => {
        const [first] = f.fixes;
        return (
          <div key={f.id} className="recipe-step">
            <span>{f.title}</span>
            {first ? (
              <FixButton fix={first} run={run} />
            ) : (
              <span className="quiet" title="no single movement mends it">
                see Make
              </span>
            )}
          </div>
        );
      })}
      {all && <FixButton fix={all} run={run} className="plain go mt-2" />}
    </div>
  );
}
