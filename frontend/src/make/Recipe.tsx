/** The recipe: the ordered tree of parts, each line with how it enters. */
import { useState } from 'react';
import type { Part } from '../api/client';
import { useEditor } from '../controls/editor';
import { plural, size, volume, whole } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { childrenOf, SIGN } from '../controls/tree';

type Row = { part: Part; depth: number; body: boolean };

export function Recipe({ open }: { open: Open }) {
  const { chosen, choose, pick } = useEditor();
  const [shut, setShut] = useState<Set<string>>(new Set());
  const { work } = open;
  const rows = listRows(open.state.piece.parts, 0, shut);
  const boxes = new Map(open.state.scene?.parts.map((p) => [p.id, p]));
  const leftOut = new Map(open.state.scene?.soundness.left_out.map((l) => [l.part, l.why]));

  const toggle = (id: string) =>
    setShut((was) => {
      const now = new Set(was);
      if (!now.delete(id)) now.add(id);
      return now;
    });
  const click = (e: React.MouseEvent, id: string) => {
    if (e.shiftKey && chosen.length) {
      const ids = rows.map((r) => r.part.id);
      const [from, to] = [ids.indexOf(chosen[chosen.length - 1] as string), ids.indexOf(id)];
      const range = ids.slice(Math.min(from, to), Math.max(from, to) + 1);
      choose([...chosen, ...range.filter((r) => !chosen.includes(r))]);
    } else pick(id, e.ctrlKey || e.metaKey);
  };
  const key = (e: React.KeyboardEvent, row: Row) => {
    const at = rows.indexOf(row);
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    const next = step ? rows[at + step] : undefined;
    if (next) {
      document.getElementById(`line-${next.part.id}`)?.focus();
      if (e.shiftKey) pick(next.part.id, true);
    } else if (e.key === 'Enter' || e.key === ' ') pick(row.part.id, e.ctrlKey || e.shiftKey);
    else if (
      (e.key === 'ArrowLeft' && !shut.has(row.part.id)) ||
      (e.key === 'ArrowRight' && shut.has(row.part.id))
    ) {
      if (row.part.join) toggle(row.part.id);
    } else return;
    e.preventDefault();
    e.stopPropagation();
  };

  return (
    <aside className="side left" aria-label="Recipe">
      <div className="pad">
        <h2>Recipe</h2>
        <div className="quiet">read from the top: each line adds, cuts or keeps</div>
      </div>
      <div className="recipe" role="tree" aria-multiselectable="true" aria-label="Parts">
        {rows.map((row) => {
          const { part, depth, body } = row;
          const role = part.reference ? 'reference' : part.op;
          const unfolded = part.join && !shut.has(part.id);
          return (
            <div
              key={part.id}
              id={`line-${part.id}`}
              role="treeitem"
              tabIndex={0}
              aria-selected={chosen.includes(part.id)}
              aria-expanded={part.join ? Boolean(unfolded) : undefined}
              aria-level={depth + 1}
              className={`line ${chosen.includes(part.id) ? 'chosen' : ''} ${part.hidden ? 'hidden' : ''}`}
              style={{ paddingLeft: 6 + depth * 18 }}
              onClick={(e) => click(e, part.id)}
              onKeyDown={(e) => key(e, row)}
            >
              <button
                type="button"
                tabIndex={-1}
                className={`glyph ${role}`}
                title={`${saySign(part, body)}${part.join ? '; click to fold' : ''}`}
                onClick={(e) => {
                  if (!part.join) return;
                  e.stopPropagation();
                  toggle(part.id);
                }}
              >
                {part.join ? (unfolded ? '▾' : '▸') : part.reference ? '·' : SIGN[part.op]}
              </button>
              <span className={`label ${part.join ? 'join' : ''}`}>
                {part.join && part.op !== 'union' && `${SIGN[part.op]} `}
                {part.name}
              </span>
              <small>
                {leftOut.has(part.id) ? (
                  <span className="mark" title={leftOut.get(part.id)}>
                    left out
                  </span>
                ) : (
                  about(part, boxes.get(part.id)?.size)
                )}
              </small>
              <button
                type="button"
                tabIndex={-1}
                className="bare quiet"
                aria-label={part.hidden ? `Show ${part.name}` : `Hide ${part.name}`}
                title={part.hidden ? 'Show (it counts either way)' : 'Hide from the view (it still counts)'}
                onClick={(e) => {
                  e.stopPropagation();
                  void work.edit({
                    kind: 'set_part',
                    ids: [part.id],
                    fields: { hidden: !part.hidden } as never,
                  });
                }}
              >
                {part.hidden ? '◌' : '◉'}
              </button>
            </div>
          );
        })}
        {rows.length === 0 && (
          <p className="quiet px-2">Nothing yet. Click a primitive below and it lands on the wheel.</p>
        )}
      </div>
      <Figures open={open} />
    </aside>
  );
}

function listRows(parts: Part[], depth: number, shut: Set<string>): Row[] {
  const body = parts.find((p) => !p.reference);
  return parts.flatMap((part) => [
    { part, depth, body: part === body },
    ...(shut.has(part.id) ? [] : listRows(childrenOf(part), depth + 1, shut)),
  ]);
}

function saySign(part: Part, body: boolean): string {
  if (part.reference) return 'a reference: shown, never part of the result';
  if (body) return 'the body: the list begins with it';
  return { union: 'adds', difference: 'cuts', intersection: 'keeps only what is shared' }[part.op];
}

function about(part: Part, size?: [number, number, number] | null): string {
  const copies = part.copies;
  if (copies) {
    const count =
      copies.kind === 'twin'
        ? 2
        : copies.kind === 'grid'
          ? copies.counts.reduce((a, b) => a * b, 1)
          : copies.count;
    return `${count ? `×${count} ` : ''}${copies.kind}`;
  }
  if (part.primitive) return part.primitive.kind;
  if (part.mesh) return 'mesh';
  return size ? size.map((s) => Math.round(s)).join('×') : plural(childrenOf(part).length, 'part');
}

function Figures({ open }: { open: Open }) {
  const s = open.state.scene?.soundness;
  return (
    <div className="figures numbers" data-testid="figures">
      <dl>
        <div>
          <dt>Bodies</dt>
          <dd>{s ? s.bodies : '…'}</dd>
        </div>
        <div>
          <dt>Triangles</dt>
          <dd>{s ? whole(s.triangles) : '…'}</dd>
        </div>
        <div>
          <dt>Volume</dt>
          <dd>{s ? volume(s.volume_mm3) : '…'}</dd>
        </div>
        <div>
          <dt>Over all</dt>
          <dd>{s ? (s.bounds ? size(s.bounds[0], s.bounds[1]) : '—') : '…'}</dd>
        </div>
      </dl>
    </div>
  );
}
