/** Draw: the points of a drawn form, on a board beside the view or in the view itself. */

import { useEffect } from 'react';
import { useEditor } from '../../controls/editor';
import { Board, onBoard } from '../../draw/Board';
import { LimbGrips } from '../../draw/LimbGrips';
import { partsBox } from '../../viewport/boxes';
import { setCopies } from '../card/copies';
import { liveOf } from '../useDragContext';
import { Leave } from './Leave';
import type { ToolProps, ViewTool } from './tool';

/** Across the middle of the list that it stands in. */
const MIRRORED = { kind: 'twin', axis: 'x', at: 0 } as const;

export const DRAW: ViewTool = {
  name: 'draw',
  chosen: 1,
  InScene: DrawInScene,
  OverView: DrawOverView,
  Note: DrawNote,
};

function useDrawn(open: ToolProps['open']) {
  const [id] = useEditor((s) => s.chosen);
  return id ? open.known.get(id)?.part : undefined;
}

function DrawOverView({ open, context, view }: ToolProps) {
  const part = useDrawn(open);
  const shown = part && onBoard(part) ? part.id : null;
  // Beside the board the view is narrower: what is drawn is brought into it, and all of the piece again afterwards.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the board opens and closes
  useEffect(() => {
    if (!shown) return;
    const later = setTimeout(() => view.rig?.frame(partsBox(open.state.scene, [shown])), 60);
    return () => clearTimeout(later);
  }, [shown]);
  if (!part || !shown) return null;
  return <Board key={part.id} open={open} part={part} live={liveOf(context)} />;
}

function DrawInScene({ open, context }: ToolProps) {
  const part = useDrawn(open);
  if (!context || part?.primitive?.kind !== 'limb') return null;
  return (
    <LimbGrips
      context={context}
      part={part}
      limb={part.primitive}
      onEdit={(primitive) => void open.work.edit({ kind: 'set_primitive', id: part.id, primitive })}
    />
  );
}

function DrawNote({ open }: ToolProps) {
  const part = useDrawn(open);
  const onSurfaces = useEditor((s) => s.onSurfaces);
  const set = useEditor((s) => s.set);
  if (part && onBoard(part)) return null;
  if (part?.primitive?.kind === 'limb')
    return (
      <section className="panel" aria-label="Draw">
        <span>
          <b>Draw:</b> drag points and their rings, + for one more
        </span>
        <label>
          <input
            type="checkbox"
            checked={onSurfaces}
            onChange={(e) => set({ onSurfaces: e.currentTarget.checked })}
          />{' '}
          caught by other parts
        </label>
        <label>
          <input
            type="checkbox"
            checked={part.copies?.kind === 'twin'}
            onChange={(e) => void setCopies(open, part.id, e.currentTarget.checked ? MIRRORED : null)}
          />{' '}
          its mirror image too
        </label>
        <Leave />
      </section>
    );
  return (
    <section className="panel" aria-label="Draw">
      <span>
        <b>Draw:</b> pick a turned form, an outline or a limb
      </span>
      <Leave />
    </section>
  );
}
