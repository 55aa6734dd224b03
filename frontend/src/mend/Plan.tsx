/** The right side of Mend: what can be mended in the recipe and in meshes, and bringing a mesh in. */
import { NavLink } from 'react-router';
import type { Job, MeshFindings } from '../api/client';
import type { Open } from '../controls/PieceFrame';
import { BringIn } from './BringIn';
import { FixButton, type RunFix } from './FixButton';
import { type Finding, type Fix, recipeFix } from './finding';
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

type Alike = { title: string; fix: Fix | undefined; count: number };

/** Findings that read alike and are mended alike as one, in their order; what can be mended comes first. */
function alike(findings: Finding[]): Alike[] {
  const found = new Map<string, Alike>();
  for (const { title, fixes } of findings) {
    const [fix] = fixes;
    const key = JSON.stringify([title, fix?.label]);
    found.set(key, { title, fix: found.get(key)?.fix ?? fix, count: (found.get(key)?.count ?? 0) + 1 });
  }
  const all = [...found.values()];
  return [...all.filter((f) => f.fix), ...all.filter((f) => !f.fix)];
}

/** The first thing to do about each finding, one by one or all as one step. */
function RecipePlan({ findings, run }: { findings: Finding[]; run: RunFix }) {
  const all = recipeFix(findings);
  return (
    <div className="section" data-testid="recipe-plan">
      <h3>The recipe</h3>
      <p className="quiet mb-2">in the parts themselves, so that all stays adjustable</p>
      {alike(findings).map(({ title, fix, count }) => (
        <div key={title + fix?.label} className="recipe-step">
          <span>
            {title}
            {count > 1 && <b> × {count}</b>}
          </span>
          {fix ? (
            <FixButton fix={fix} run={run} />
          ) : (
            <span className="quiet" title="no single movement mends it">
              see Make
            </span>
          )}
        </div>
      ))}
      {all && <FixButton fix={all} run={run} className="plain go mt-2" />}
    </div>
  );
}
