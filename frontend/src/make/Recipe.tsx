/** The recipe: the ordered tree of parts, each line with how it enters, what is odd about it, and how it is shown. */

import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, useState } from 'react';
import { useShallow } from 'zustand/react/shallow';
import type { Mark, Part } from '../api/client';
import { useMarks } from '../api/pieces';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { childrenOf } from '../controls/tree';
import type { Actions } from './actions';
import { Figures } from './Figures';
import { type Drop, Line } from './Line';
import { RecipeFilter, type Wanted, wants } from './RecipeFilter';

/** How high a line is, as the style says. */
const LINE_PX = 27;

export type Row = { part: Part; depth: number; body: boolean; parent: string | null; index: number };

export function Recipe({ open, actions }: { open: Open; actions: Actions }) {
  const { chosen, inside, pick, set } = useEditor(
    useShallow((s) => ({ chosen: s.chosen, inside: s.inside, pick: s.pick, set: s.set })),
  );
  const [shut, setShut] = useState<Set<string>>(new Set());
  const [wanted, setWanted] = useState<Wanted>({ text: '', glaze: null });
  const [dropAt, setDropAt] = useState<{ id: string; where: Drop } | null>(null);
  const { work } = open;
  const found = useMarks(open.state).data?.marks;
  const marks = useMemo(() => marksByPart(found ?? []), [found]);
  const { parts } = open.state.piece;
  const rows = useMemo(() => listRows(parts, null, 0, shut), [parts, shut]);
  const shown = useMemo(
    () => rows.filter((r) => wants(wanted, r.part.name, open.known.get(r.part.id)?.colour)),
    [rows, wanted, open.known],
  );
  const held = useMemo(() => new Set(chosen), [chosen]);
  const scene = open.state.scene;
  const views = useMemo(() => new Map(scene?.parts.map((p) => [p.id, p])), [scene]);
  const list = useRef<HTMLDivElement>(null);
  // Of a recipe of thousands only the lines in sight, and some around them, are drawn.
  const lines = useVirtualizer({
    count: shown.length,
    getScrollElement: () => list.current,
    estimateSize: () => LINE_PX,
    getItemKey: (at) => shown[at]?.part.id ?? at,
    overscan: 30,
  });
  const toLine = (at: number) => {
    lines.scrollToIndex(at);
    const line = () => document.getElementById(`line-${shown[at]?.part.id}`);
    if (line()) line()?.focus();
    else requestAnimationFrame(() => line()?.focus()); // it is drawn by then
  };
  const impossible = new Map(open.state.problem?.problems.map((p) => [p.part, p.message]));
  const leftOut = new Map(open.state.scene?.soundness?.left_out.map((l) => [l.part, l.why]));

  const toggle = (id: string) =>
    setShut((was) => {
      const now = new Set(was);
      if (!now.delete(id)) now.add(id);
      return now;
    });
  /** A line outside the group that was entered leaves it. */
  const pickLine = (row: Row, more: boolean) => {
    if (inside !== row.parent) set({ inside: null });
    pick(row.part.id, more);
  };
  const click = (e: React.MouseEvent, row: Row) => {
    if (e.shiftKey && chosen.length) {
      const ids = shown.map((r) => r.part.id);
      const [from, to] = [ids.indexOf(chosen[chosen.length - 1] as string), ids.indexOf(row.part.id)];
      const range = ids.slice(Math.min(from, to), Math.max(from, to) + 1);
      set({ chosen: [...chosen, ...range.filter((r) => !held.has(r))] });
    } else pickLine(row, e.ctrlKey || e.metaKey);
  };
  const key = (e: React.KeyboardEvent, row: Row) => {
    const at = shown.indexOf(row);
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    const next = step ? shown[at + step] : undefined;
    if (e.altKey && /^Arrow/.test(e.key)) void carryLine(open, rows, row, e.key);
    else if (next) {
      toLine(at + (step as number));
      if (e.shiftKey) pick(next.part.id, true);
    } else if (e.key === 'Enter' || e.key === ' ') pickLine(row, e.ctrlKey || e.shiftKey);
    else if (
      (e.key === 'ArrowLeft' && !shut.has(row.part.id)) ||
      (e.key === 'ArrowRight' && shut.has(row.part.id))
    ) {
      if (row.part.join) toggle(row.part.id);
    } else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const drop = (row: Row, where: Drop, dragged: string) => {
    setDropAt(null);
    const ids = held.has(dragged) ? chosen : [dragged];
    const parent = where === 'into' ? row.part.id : row.parent;
    const index = where === 'into' ? childrenOf(row.part).length : row.index + (where === 'after' ? 1 : 0);
    void work.edit({ kind: 'arrange', ids, parent, index });
  };

  return (
    <aside className="side left" aria-label="Recipe">
      <div className="pad pb-1">
        <h2>Recipe</h2>
        <div className="quiet">read from the top: each line adds, cuts or keeps</div>
        {rows.length > 6 && (
          <RecipeFilter
            wanted={wanted}
            onChange={setWanted}
            known={open.known}
            onPick={() => set({ chosen: shown.map((r) => r.part.id), inside: null })}
          />
        )}
      </div>
      <div className="recipe" role="tree" aria-multiselectable="true" aria-label="Parts" ref={list}>
        <div role="presentation" className="lines" style={{ height: lines.getTotalSize() }}>
          {lines.getVirtualItems().map(({ index, key: name, start }) => {
            const row = shown[index] as Row;
            const { id } = row.part;
            return (
              <div key={name} role="presentation" style={{ transform: `translateY(${start}px)` }}>
                <Line
                  row={row}
                  chosen={held.has(id)}
                  unfolded={row.part.join ? !shut.has(id) : undefined}
                  size={views.get(id)?.size ?? null}
                  leftOut={leftOut.get(id)}
                  impossible={impossible.get(id)}
                  marks={marks.get(id) ?? []}
                  dropAt={dropAt?.id === id ? dropAt.where : null}
                  onClick={(e) => click(e, row)}
                  onKey={(e) => key(e, row)}
                  onFold={() => toggle(id)}
                  onFields={(fields) => void actions.setParts(fields, [id])}
                  onOver={(where) => setDropAt(where && { id, where })}
                  onDrop={(where, dragged) => drop(row, where, dragged)}
                />
              </div>
            );
          })}
        </div>
        {rows.length === 0 && (
          <p className="quiet px-2">Nothing yet. Click a primitive below and it lands on the wheel.</p>
        )}
        {rows.length > 0 && shown.length === 0 && <p className="quiet px-2">No part is like that.</p>}
      </div>
      <Figures open={open} />
    </aside>
  );
}

/** By keyboard: up or down among its neighbours, into the join above it, or out of its join. */
function carryLine(open: Open, rows: Row[], { part, parent, index }: Row, key: string) {
  const arrange = (to: { parent: string | null; index: number }) =>
    open.work.edit({ kind: 'arrange', ids: [part.id], ...to });
  if (key === 'ArrowDown') return arrange({ parent, index: index + 2 });
  if (key === 'ArrowUp') return index > 0 ? arrange({ parent, index: index - 1 }) : null;
  if (key === 'ArrowLeft') {
    const join = rows.find((r) => r.part.id === parent);
    return join ? arrange({ parent: join.parent, index: join.index + 1 }) : null;
  }
  const above = rows.find((r) => r.parent === parent && r.index === index - 1)?.part;
  return above?.join ? arrange({ parent: above.id, index: childrenOf(above).length }) : null;
}

function marksByPart(marks: Mark[]): Map<string, Mark[]> {
  const found = new Map<string, Mark[]>();
  for (const mark of marks) {
    const known = found.get(mark.part);
    if (known) known.push(mark);
    else found.set(mark.part, [mark]);
  }
  return found;
}

function listRows(parts: Part[], parent: string | null, depth: number, shut: Set<string>): Row[] {
  const body = parts.find((p) => !p.reference);
  return parts.flatMap((part, index) => [
    { part, depth, body: part === body, parent, index },
    ...(shut.has(part.id) ? [] : listRows(childrenOf(part), part.id, depth + 1, shut)),
  ]);
}
