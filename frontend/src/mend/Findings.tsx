/** The findings at the left, grouped; picking one shows it on the piece. */
import type { MeshFindings, Needs, Scene } from '../api/client';
import { plural } from '../controls/format';
import type { Finding } from './findingList';

type Props = {
  meshes: MeshFindings[];
  needs: Needs | undefined;
  failure: Error | null;
  findings: Finding[];
  now: string | null;
  show: (id: string) => void;
  scene: Scene | null;
};

export function Findings({ meshes, needs, failure, findings, now, show, scene }: Props) {
  const pinches =
    needs?.soundness.findings.filter((f) => f.kind === 'overshared_edges' || f.kind === 'pinched_vertices') ??
    [];
  const leftOut = needs?.soundness.left_out ?? [];
  return (
    <aside className="side left" aria-label="What was found">
      <div className="pad">
        <h2>What was found</h2>
        <div className="quiet">pick one to see it on the piece</div>
      </div>
      <div className="findings" aria-live="polite">
        {!needs && !failure && <p className="quiet">Looking the piece over …</p>}
        {failure && <p className="text-danger">{failure.message}</p>}
        {meshes
          .filter((m) => m.job && m.sound == null)
          .map((m) => (
            <p key={m.part} className="quiet px-3">
              {m.job?.state === 'failed' ? m.job.error : 'Looking a mesh over …'}
            </p>
          ))}
        {grouped(findings).map(([title, group]) => (
          <section key={title} aria-label={title}>
            {group.length > 1 && (
              <h3 className="finding-group">
                {title} <span>{group.length}</span>
              </h3>
            )}
            {group.map((f) => (
              <button
                key={f.id}
                type="button"
                className={`finding ${f.id === now ? 'now' : ''}`}
                aria-pressed={f.id === now}
                onClick={() => show(f.id)}
              >
                <b>{f.title}</b>
                <p>{f.about}</p>
              </button>
            ))}
          </section>
        ))}
        {pinches.map((f) => (
          <div key={f.kind} className="finding">
            <b>
              {f.kind === 'overshared_edges' ? 'Overshared edges' : 'Pinches'}
              <span>{f.count}</span>
            </b>
            <p>
              Parts meet only along an edge or in a point, so the skin is not closed there. Sinking them
              together mends it.
            </p>
          </div>
        ))}
        {leftOut.map((l) => (
          <div key={l.part} className="finding">
            <b>A mesh is left out</b>
            <p>{l.why}. It is shown, but cannot count until it is mended.</p>
          </div>
        ))}
        {needs && scene && <Clear needs={needs} />}
      </div>
    </aside>
  );
}

/** Findings of one title together, in the order of the first of each. */
function grouped(findings: Finding[]): [string, Finding[]][] {
  const groups = new Map<string, Finding[]>();
  for (const f of findings) groups.set(f.title, [...(groups.get(f.title) ?? []), f]);
  return [...groups];
}

/** What was looked for and not found. */
function Clear({ needs }: { needs: Needs }) {
  const rows = [
    {
      name: 'Loose bodies',
      count: needs.loose.length,
      about: `the skin is ${plural(needs.soundness.bodies, 'body', 'bodies')}`,
    },
    {
      name: 'Parts that only touch',
      count: needs.touches.length,
      about: needs.all_compared ? 'every neighbour was compared' : 'only the first 400 pairs were compared',
    },
    {
      name: 'Cracks and pinches',
      count: needs.soundness.manifold || needs.soundness.triangles === 0 ? 0 : 1,
      about: `closed skin of ${needs.soundness.triangles.toLocaleString('en')} triangles`,
    },
  ];
  return (
    <>
      {rows
        .filter((r) => r.count === 0)
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
