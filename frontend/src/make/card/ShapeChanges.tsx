/** The shape changes stacked on a part: put on, set, switched off, reordered, taken off. */
import { useState } from 'react';
import type { ChangeInfo, Part, ShapeChange } from '../../api/client';
import { useChanges } from '../../api/pieces';
import { scaledLengths } from '../../controls/fields/scaled';
import type { Open } from '../../controls/PieceFrame';
import { ChangeFields } from './ChangeFields';

type Props = { open: Open; part: Part };

export function ShapeChanges({ open, part }: Props) {
  const kinds = useChanges().data ?? [];
  const [adding, setAdding] = useState(false);
  const stack = part.changes;
  const set = (next: ShapeChange[]) =>
    void open.work.edit({ kind: 'set_changes', id: part.id, stack: next as never });
  const put = (index: number, change: ShapeChange) => set(stack.map((c, i) => (i === index ? change : c)));
  const moved = (index: number, by: number) => {
    const next = [...stack];
    const [change] = next.splice(index, 1);
    next.splice(index + by, 0, change as ShapeChange);
    set(next);
  };
  return (
    <div className="section changes">
      <h3>
        Shape changes
        <button
          type="button"
          className="bare"
          aria-expanded={adding}
          disabled={part.locked}
          onClick={() => setAdding(!adding)}
        >
          {adding ? 'leave it' : '+ add'}
        </button>
      </h3>
      {stack.length === 0 && !adding && <p className="quiet mb-0">Round, hollow, bend, studs and others.</p>}
      <ol>
        {stack.map((change, index) => {
          const info = kinds.find((k) => k.kind === change.kind);
          return (
            info && (
              // biome-ignore lint/suspicious/noArrayIndexKey: a change has no other name
              <li key={`${index} ${change.kind}`} aria-label={info.label} className={change.off ? 'off' : ''}>
                <div className="change-head">
                  <label title={change.off ? 'switched off' : 'switched on'}>
                    <input
                      type="checkbox"
                      checked={!change.off}
                      disabled={part.locked}
                      onChange={() => put(index, { ...change, off: !change.off })}
                    />{' '}
                    <b>{info.label}</b>
                  </label>
                  <span className="change-tools">
                    <button
                      type="button"
                      className="bare"
                      aria-label={`${info.label} earlier`}
                      title="made earlier"
                      disabled={index === 0 || part.locked}
                      onClick={() => moved(index, -1)}
                    >
                      ↑
                    </button>
                    <button
                      type="button"
                      className="bare"
                      aria-label={`${info.label} later`}
                      title="made later"
                      disabled={index === stack.length - 1 || part.locked}
                      onClick={() => moved(index, 1)}
                    >
                      ↓
                    </button>
                    <button
                      type="button"
                      className="bare"
                      aria-label={`Take ${info.label} off`}
                      title="take it off"
                      disabled={part.locked}
                      onClick={() => set(stack.filter((_, i) => i !== index))}
                    >
                      ×
                    </button>
                  </span>
                </div>
                {!change.off && (
                  <ChangeFields
                    info={info}
                    change={change}
                    locked={part.locked}
                    triangles={open.state.scene?.soundness?.triangles ?? 0}
                    onSet={(next) => put(index, next)}
                  />
                )}
              </li>
            )
          );
        })}
      </ol>
      {adding && (
        <div className="change-menu" role="menu" aria-label="Shape changes">
          {kinds.map((kind) => (
            <button
              key={kind.kind}
              type="button"
              role="menuitem"
              onClick={() => {
                setAdding(false);
                set([...stack, begun(kind, open, part)]);
              }}
            >
              <b>{kind.label}</b> <span className="quiet">{kind.summary}</span>
            </button>
          ))}
        </div>
      )}
    </div>
  );
}

/** A new change, its lengths fitted to the part: a wall of 2 mm is much for a bead. */
function begun(kind: ChangeInfo, open: Open, part: Part): ShapeChange {
  const size = open.state.scene?.parts.find((p) => p.id === part.id)?.size ?? [20, 20, 20];
  const least = Math.min(...size.map((s, i) => s / (part.place.scale[i] ?? 1)));
  const shrink = Math.min(1, least / 16);
  return scaledLengths(kind.sample, kind.fields, shrink, 2) as ShapeChange;
}
