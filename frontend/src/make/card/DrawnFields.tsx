/** What a drawn form's points are: the way to the drawing board, or a limb's points as numbers. */
import type { Part } from '../../api/client';
import { useEditor } from '../../controls/editor';
import { NumberField } from '../../controls/fields/NumberField';
import type { Open } from '../../controls/PieceFrame';
import { onBoard } from '../../draw/Board';
import { extended, type Limb, shortened, type Triple } from '../../draw/limb';

const WORDS: Record<string, string> = {
  turned: 'Draw its profile',
  outline: 'Draw its outline',
  limb: 'Draw it in the view',
};

export function DrawnFields({ open, part }: { open: Open; part: Part }) {
  const tool = useEditor((s) => s.tool);
  const set = useEditor((s) => s.set);
  const board = onBoard(part);
  if (!board && part.primitive?.kind !== 'limb') return null;
  return (
    <div className="section drawn">
      <h3>{board ? 'Drawing' : 'Points'}</h3>
      <div className="buttons">
        <button
          type="button"
          className="plain"
          aria-pressed={tool === 'draw'}
          disabled={part.locked}
          title="I"
          onClick={() => set({ tool: tool === 'draw' ? 'hand' : 'draw' })}
        >
          {WORDS[part.primitive?.kind ?? ''] ?? 'Draw'}
        </button>
      </div>
      {part.primitive?.kind === 'limb' && <LimbPoints open={open} part={part} limb={part.primitive} />}
    </div>
  );
}

/** Each point a row of where it is and how thick it is there. */
function LimbPoints({ open, part, limb }: { open: Open; part: Part; limb: Limb }) {
  const rows = limb.points.map((p, i) => [...p, limb.radii[i] ?? 1]);
  const take = (primitive: Limb) => void open.work.edit({ kind: 'set_primitive', id: part.id, primitive });
  const put = (next: number[][]) =>
    take({
      ...limb,
      points: next.map((r) => r.slice(0, 3) as Triple),
      radii: next.map((r) => r[3] as number),
    });
  return (
    <div className="limb-points">
      <div className="heads quiet" aria-hidden="true">
        <span>x</span>
        <span>y</span>
        <span>z</span>
        <span>radius</span>
        <span />
      </div>
      {rows.map((row, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a point has no other name than its number
        <div key={n} className="row-of-point">
          {['x', 'y', 'z', 'radius'].map((axis, i) => (
            <NumberField
              key={axis}
              label={`Point ${n + 1} ${axis}`}
              value={row[i] ?? 0}
              least={i === 3 ? 0.001 : undefined}
              disabled={part.locked}
              onApply={(v) => put(rows.map((r, m) => (m === n ? r.map((w, k) => (k === i ? v : w)) : r)))}
            />
          ))}
          <button
            type="button"
            className="bare"
            aria-label={`Take point ${n + 1} out`}
            title="take it out"
            disabled={part.locked || rows.length <= 2}
            onClick={() => take(shortened(limb, n))}
          >
            ×
          </button>
        </div>
      ))}
      <div className="buttons">
        <button
          type="button"
          className="plain small"
          disabled={part.locked}
          onClick={() => take(extended(limb, rows.length - 1))}
        >
          + point
        </button>
      </div>
    </div>
  );
}
