/** What the maker can do with what is in hand; used by keys, buttons and the pointer alike. */
import type { Op, Part, PieceState, Primitive } from '../api/client';
import { useWork } from '../api/work';
import { type Editor, useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { bodyOf, childrenOf } from '../controls/tree';
import { loadMesh } from '../viewport/meshes';

type Vector = [number, number, number];
const CLIPBOARD = 'noble-clay-parts';

export type Actions = ReturnType<typeof makeActions>;

export function makeActions(open: Open) {
  const { work, known, state } = open;
  const editor = (): Editor => useEditor.getState();
  const there = (ids: string[]) => ids.filter((id) => known.has(id));
  const chosen = () => there(editor().chosen);
  const partOf = (id: string) => known.get(id)?.part as Part;
  const chooseFrom = (answer: PieceState | null) => {
    if (answer) editor().choose(answer.chosen);
  };

  const move = async (ids: string[], by: Vector) => {
    const answer = await work.edit({ kind: 'move', ids, by });
    // The dragged parts stay where the hand left them until the joined skin is there too.
    if (answer?.scene) await loadMesh(answer.scene.result.key).catch(() => undefined);
    editor().setDrag(null);
  };

  /** Parts as they would be put into the piece's own list: those in turned joins keep only their shape. */
  const taken = (): Part[] => chosen().map(partOf);

  const remove = async () => {
    const ids = chosen();
    if (!ids.length) return;
    if (await work.edit({ kind: 'remove_parts', ids })) editor().choose([]);
  };

  return {
    move,
    remove,
    putDown: async (primitive: Primitive, at: [number, number] | null) =>
      chooseFrom(await work.putDown(primitive, at)),
    nudge: (by: Vector) => {
      const ids = chosen();
      if (ids.length) void work.edit({ kind: 'move', ids, by });
    },
    /** Join what is chosen; parts that already stand together in a join, the body first, only change how they enter. */
    join: async (op: Op) => {
      const ids = chosen();
      if (ids.length < 2) return;
      if (sameJoin(open, ids)) {
        await work.edit({ kind: 'set_part', ids: ids.slice(1), fields: { op } as never });
      } else {
        chooseFrom(await work.edit({ kind: 'join', ids, op }));
      }
    },
    swap: async () => {
      const ids = chosen();
      const join = sameJoin(open, ids);
      const [first, ...rest] = ids;
      if (!first) return;
      if (join && rest[0]) await work.edit({ kind: 'swap_body', id: join.id, body: rest[0] });
      editor().choose([...rest, first]);
    },
    ungroup: async () => {
      const [id] = chosen();
      if (id) chooseFrom(await work.edit({ kind: 'ungroup', id }));
    },
    duplicate: async () => {
      const ids = chosen();
      const first = ids[0] ? known.get(ids[0]) : undefined;
      if (!first) return;
      const parts = ids.map(partOf);
      chooseFrom(
        await work.edit({ kind: 'add_parts', parts: parts as never, parent: first.parent?.id ?? null }),
      );
    },
    copy: () => {
      const parts = taken();
      if (!parts.length) return;
      localStorage.setItem(CLIPBOARD, JSON.stringify(parts));
    },
    cut: async () => {
      const parts = taken();
      if (!parts.length) return;
      localStorage.setItem(CLIPBOARD, JSON.stringify(parts));
      await remove();
    },
    paste: async () => {
      const parts = copiedParts();
      if (!parts) return;
      // On an empty wheel the first part is the body, whatever it was before.
      const [first, ...rest] = parts;
      const ready =
        first && state.piece.parts.length === 0 ? [{ ...first, op: 'union' as const }, ...rest] : parts;
      chooseFrom(await work.edit({ kind: 'add_parts', parts: ready as never }));
    },
    undo: () => void work.undo(),
    redo: () => void work.redo(),
    chooseAll: () => editor().choose(state.piece.parts.map((p) => p.id)),
  };
}

/** What was copied last, here or in another tab; null when there is nothing, or nothing that can be read. */
function copiedParts(): Part[] | null {
  const text = localStorage.getItem(CLIPBOARD);
  if (!text) return null;
  try {
    const parts: unknown = JSON.parse(text);
    if (Array.isArray(parts) && parts.length > 0) return parts as Part[];
  } catch {
    // told below
  }
  useWork.setState({ refusal: 'What was copied cannot be read; copy the parts once more.' });
  return null;
}

/** The join in which all of these stand, with its body picked first; else null. */
export function sameJoin(open: Open, ids: string[]): Part | null {
  const first = ids[0] ? open.known.get(ids[0]) : undefined;
  const join = first?.parent;
  if (!first || !join || bodyOf(open.state.piece, first)?.id !== first.part.id) return null;
  const siblings = childrenOf(join).map((p) => p.id);
  return ids.every((id) => siblings.includes(id)) ? join : null;
}
