/** The findings at the left, grouped by kind; picking one shows it on the piece, and offers what mends it. */
import { useNavigate } from 'react-router';
import type { MeshFindings, Needs } from '../api/client';
import words from '../api/words.json';
import { ChoiceField } from '../controls/fields/ChoiceField';
import { plural } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { FixButton, type RunFix } from './FixButton';
import { type Finding, type FindingGroup, fixForAll, grouped, SEVERITY_WORDS } from './finding';
import type { Found } from './useFindings';

type Props = {
  open: Open;
  found: Found;
  now: string | null;
  show: (id: string) => void;
  run: RunFix;
  wrong: string | null;
};

export function Findings({ open, found, now, show, run, wrong }: Props) {
  const { needs, failure, meshes, all, listed, of, choose } = found;
  const leftOut = needs?.soundness.left_out ?? [];
  const concerned = [...new Set(all.flatMap((f) => f.parts))].filter((id) => open.known.has(id));
  const number = (part: string) => all.filter((f) => f.parts.includes(part)).length;
  return (
    <aside className="side left" aria-label="What was found">
      <div className="pad">
        <h2>What was found</h2>
        <div className="quiet">pick one to see it on the piece</div>
        {concerned.length > 1 && (
          <ChoiceField
            label="In"
            value={of ?? ''}
            options={[
              { value: '', word: `the whole piece (${all.length})` },
              ...concerned.map((id) => ({
                value: id,
                word: `${open.known.get(id)?.part.name} (${number(id)})`,
              })),
            ]}
            onApply={(id) => choose(id || null)}
          />
        )}
      </div>
      <div className="findings" aria-live="polite">
        {!needs && !failure && open.known.size > 0 && <p className="quiet">Looking the piece over …</p>}
        {failure && <p className="text-danger">{failure.message}</p>}
        {wrong && (
          <p className="text-danger px-2" role="alert">
            {wrong}
          </p>
        )}
        {meshes
          .filter((m) => m.job && m.sound == null)
          .map((m) => (
            <p key={m.part} className="quiet px-3">
              {m.job?.state === 'failed' ? m.job.error : 'Looking a mesh over …'}
            </p>
          ))}
        {grouped(listed).map((group) => (
          <Group key={group.kind} group={group} now={now} show={show} run={run} />
        ))}
        {leftOut.length > 0 && (
          <div className="finding none">
            <b>{plural(leftOut.length, 'mesh is', 'meshes are')} left out</b>
            <p>
              {[...new Set(leftOut.map((l) => l.why))].join('; ')}. Such a mesh is shown, but cannot count
              until it is mended.
            </p>
          </div>
        )}
        {needs && needs.soundness.triangles > 0 && <Clear needs={needs} meshes={meshes} />}
        {open.known.size === 0 && (
          <p className="quiet px-1">
            This piece is empty: put parts down in Make, or bring a mesh in at the right.
          </p>
        )}
      </div>
    </aside>
  );
}

type GroupProps = { group: FindingGroup; now: string | null; show: (id: string) => void; run: RunFix };

function Group({ group, now, show, run }: GroupProps) {
  const all = fixForAll(group);
  return (
    <section aria-label={group.title}>
      <div className="finding-group">
        <h3>
          {group.title} <span>{group.findings.length}</span>
        </h3>
        <span className={`severity ${group.severity}`}>{SEVERITY_WORDS[group.severity]}</span>
      </div>
      <p className="finding-about">
        {group.about}
        {all && <FixButton fix={all} run={run} />}
      </p>
      {group.findings.map((f) => (
        <div key={f.id} className={`finding ${f.id === now ? 'now' : ''}`}>
          <button
            type="button"
            className="finding-pick"
            aria-pressed={f.id === now}
            onClick={() => show(f.id)}
          >
            <b>{f.title}</b>
            <span>{f.detail}</span>
          </button>
          {f.id === now && <Fixes finding={f} run={run} />}
        </div>
      ))}
    </section>
  );
}

function Fixes({ finding, run }: { finding: Finding; run: RunFix }) {
  const navigate = useNavigate();
  return (
    <div className="finding-fixes">
      {finding.fixes.map((fix) => (
        <FixButton key={fix.label} fix={fix} run={run} />
      ))}
      <button
        type="button"
        className="plain small"
        title="with the parts concerned chosen"
        onClick={() => navigate('../make', { relative: 'path', state: { chosen: finding.parts } })}
      >
        To Make
      </button>
    </div>
  );
}

/** What was looked for and not found. */
function Clear({ needs, meshes }: { needs: Needs; meshes: MeshFindings[] }) {
  const none = (kinds: string[]) => !needs.needs.some((n) => kinds.includes(n.kind));
  const looked = meshes.filter((m) => m.sound !== null);
  const rows = [
    {
      name: 'Loose bodies and crumbs',
      clear: none(['loose_body', 'crumb']),
      about: `the skin is ${plural(needs.soundness.bodies, 'body', 'bodies')}`,
    },
    {
      name: 'Parts that only touch',
      clear: none(['touching']),
      about: needs.all_compared
        ? 'every neighbour was compared'
        : `only the first ${words.limits.pairs} pairs were compared`,
    },
    {
      name: 'Cracks and pinches',
      clear: needs.soundness.manifold && needs.soundness.left_out.length === 0,
      about: `closed skin of ${needs.soundness.triangles.toLocaleString('en')} triangles`,
    },
    {
      name: 'Walls of nothing',
      clear: none(['thin_wall']),
      about: `nowhere thinner than ${words.limits.nothing_mm} mm`,
    },
    {
      name: 'Flaws in meshes',
      clear: looked.length > 0 && looked.every((m) => m.flaws.length === 0),
      about: `${plural(looked.length, 'mesh', 'meshes')} looked over`,
    },
  ];
  return (
    <>
      {rows
        .filter((r) => r.clear)
        .map((r) => (
          <div key={r.name} className="finding none">
            <b>
              <span>✓ {r.name}</span>
              <span>0</span>
            </b>
            <p>{r.about}</p>
          </div>
        ))}
    </>
  );
}
