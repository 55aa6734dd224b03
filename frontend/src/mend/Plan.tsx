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

/** Titles, each with how many findings have it, in their order. */
function byTitle(findings: Finding[]): [string, number][] {
  const found = new Map<string, number>();
  for (const { title } of findings) found.set(title, (found.get(title) ?? 0) + 1);
  return [...found];
}

/** The first thing to do about each finding, one by one or all as one step. */
function RecipePlan({ findings, run }: { findings: Finding[]; run: RunFix }) {
  const all = recipeFix(findings);
  const mended = findings.filter((f) => f.fixes.length > 0);
  return (
    <div className="section" data-testid="recipe-plan">
      <h3>The recipe</h3>
      <p className="quiet mb-2">in the parts themselves, so that all stays adjustable</p>
      {mended.map((f) => (
        <div key={f.id} className="recipe-step">
          <span>{f.title}</span>
          <FixButton fix={f.fixes[0] as Fix} run={run} />
        </div>
      ))}
      {byTitle(findings.filter((f) => f.fixes.length === 0)).map(([title, count]) => (
        <div key={title} className="recipe-step">
          <span>
            {title}
            {count > 1 && <b> × {count}</b>}
          </span>
          <span className="quiet" title="no single movement mends it">
            see Make
          </span>
        </div>
      ))}
      {all && <FixButton fix={all} run={run} className="plain go mt-2" />}
    </div>
  );
}
