/** What the maker can do with what is in hand; used by keys, buttons and the pointer alike. */

import * as THREE from 'three';
import type { Adjust, Edit, KeptFields, Op, Part, PartFields, PieceState, Primitive } from '../api/client';
import type { Preferences } from '../api/preferences';
import { type Spot, useWork } from '../api/work';
import { type Editor, useEditor, type Vector } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { bodyOf, childrenOf, type Known } from '../controls/tree';
import { outermost, turned } from '../viewport/carry';
import { boxOf } from '../viewport/snapping';

export type Side = 'x-' | 'x+' | 'y-' | 'y+' | 'z-' | 'z+';

const CLIPBOARD = 'noble-clay-parts';

export type Actions = ReturnType<typeof makeActions>;

export function makeActions(open: Open, preferences: Preferences) {
  const { work, known, state } = open;
  const editor = (): Editor => useEditor.getState();
  const chosen = () => editor().chosen.filter((id) => known.has(id));
  const partOf = (id: string) => known.get(id)?.part as Part;
  const chooseFrom = (answer: PieceState | null) => {
    if (answer) editor().choose(answer.chosen);
    return answer;
  };

  /** Where something new goes that is dropped at a point of the floor, or is to stand beside what is there. */
  const spot = (at: Vector | null): Spot => {
    const { floor } = editor();
    const on = floor && { point: at ?? floor.point, normal: floor.normal };
    return { at: at && !floor ? [at[0], at[1]] : null, on, beside: at === null };
  };

  const remove = async () => {
    const ids = chosen();
    if (!ids.length) return;
    const bodies = ids.filter((id) => {
      const one = known.get(id);
      return one && bodyOf(state.piece, one)?.id === id && one.parent && !ids.includes(one.parent.id);
    });
    const heirs = bodies.map((id) => heirOf(partOf(id), known.get(id)?.parent as Part, ids)).filter(Boolean);
    if (!(await work.edit({ kind: 'remove_parts', ids }))) return;
    editor().choose([]);
    if (heirs.length) {
      const words = heirs.map((h) => `${h} is now the body of its join`).join('; ');
      useWork.setState({ told: `${words}. Undo brings the old body back.` });
    }
  };

  const setParts = (fields: Partial<PartFields>, ids = chosen()) =>
    ids.length ? work.edit({ kind: 'set_part', ids, fields: fields as never }) : null;

  /** On if any of the chosen is off. */
  const toggle = (field: 'locked' | 'hidden' | 'reference') => {
    const ids = chosen();
    void setParts({ [field]: !ids.every((id) => partOf(id)[field]) });
  };

  const keepCopy = () => {
    const parts = chosen().map(partOf);
    if (parts.length) localStorage.setItem(CLIPBOARD, JSON.stringify(parts));
    return parts.length > 0;
  };

  return {
    setParts,
    toggle,
    remove,
    putDown: async (primitive: Primitive, at: Vector | null) => {
      chooseFrom(await work.putDown(primitive, spot(at)));
    },
    putReady: async (ready: { preset: string } | { kept: string }, at: Vector | null) => {
      chooseFrom(await work.putReady(ready, spot(at)));
    },
    /** Resolves to whether the drawer has it now. */
    keep: async (ids: string[], fields: KeptFields) => (await work.keep(ids, fields)) !== null,
    withDrawer: (way: 'follow' | 'put-back', id: string) => work.withDrawer(way, id),
    move: (ids: string[], by: Vector) => void work.edit({ kind: 'move', ids, by }),
    nudge: (by: Vector) => {
      const ids = outermost(known, chosen());
      if (ids.length) void work.edit({ kind: 'move', ids, by });
    },
    turn: (angle: number) => {
      const ids = outermost(known, chosen());
      if (!ids.length || !state.scene) return;
      const row = state.scene.parts.find((p) => p.id === ids[0])?.matrices[0];
      const middle = boxOf(state.scene, ids).getCenter(new THREE.Vector3()).toArray();
      const centre = (ids.length === 1 && row ? [row[3], row[7], row[11]] : middle) as Vector;
      const { edit } = turned(ids, [0, 0, 1], angle, centre);
      if (edit) void work.edit(edit);
    },
    /** Resolves to whether it could be made. */
    adjust: async (adjust: Adjust) => {
      const answer = await work.adjust(adjust);
      editor().setDrag(null);
      return answer !== null;
    },
    sink: () => {
      const ids = chosen();
      const into = ids[ids.length - 1];
      if (ids.length > 1 && into)
        void work.adjust({ kind: 'sink', ids: ids.slice(0, -1), into, depth: preferences.sink_mm });
    },
    setDown: (height = 0) => {
      const floor = editor().floor ?? { point: [0, 0, 0] as Vector, normal: [0, 0, 1] as Vector };
      const { point, normal } = floor;
      void work.adjust({ kind: 'set_down', ids: chosen(), floor: { point, normal }, height });
    },
    centre: () => void work.adjust({ kind: 'centre', ids: chosen() }),
    mirror: (axis: 'x' | 'y' | 'z') => void work.adjust({ kind: 'mirror', ids: chosen(), axis }),
    /** Join what is chosen; parts that already stand together in a join, the body first, only change how they enter. */
    join: async (op: Op | 'split', bodies = 1) => {
      const edit = joinEdit(open, chosen(), op, bodies);
      if (!edit) return;
      const answer = await work.edit(edit);
      if (edit.kind !== 'set_part') chooseFrom(answer);
    },
    /** What is chosen cuts what it stands in: the body of a list cannot. */
    makeCutter: () => {
      const ids = chosen().filter((id) => bodyOf(state.piece, known.get(id) as Known)?.id !== id);
      if (ids.length) void setParts({ op: 'difference' }, ids);
      else
        useWork.setState({ refusal: 'The first part of a list is its body and cannot cut; swap it first.' });
    },
    cutWithCopy: async (clearance: number) => {
      const [body, tool] = chosen();
      if (body && tool) chooseFrom(await work.edit({ kind: 'cut_with_copy', body, tool, clearance }));
    },
    cutInside: async (wall: number, side: Side) => {
      const [id] = chosen();
      if (id) chooseFrom(await work.edit({ kind: 'cut_inside', id, wall, open: side }));
    },
    bake: async () => {
      const [id] = chosen();
      if (id) await work.bake(id);
    },
    group: async () => {
      const ids = chosen();
      if (ids.length > 1)
        chooseFrom(await work.edit({ kind: 'join', ids, op: 'union', bodies: 1, name: 'Group' }));
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
      const before = outermost(known, chosen());
      const first = before[0] ? known.get(before[0]) : undefined;
      if (!first) return;
      const answer = await work.edit({
        kind: 'add_parts',
        parts: before.map(partOf) as never,
        parent: first.parent?.id ?? null,
      });
      chooseFrom(answer);
      if (answer) editor().set({ step: { ids: answer.chosen, before } });
    },
    duplicateAgain: async () => {
      const { step } = editor();
      const there = step && [...step.ids, ...step.before].every((id) => known.has(id));
      if (!step || !there) {
        useWork.setState({
          refusal: 'Duplicate something first, and move the duplicate: then again repeats that step.',
        });
        return;
      }
      const answer = chooseFrom(await work.edit({ kind: 'again', ...step }));
      if (answer) editor().set({ step: { ids: answer.chosen, before: step.ids } });
    },
    breakCopies: async () => {
      const ids = chosen().filter((id) => partOf(id).copies);
      if (ids.length) chooseFrom(await work.edit({ kind: 'break_copies', ids }));
    },
    copy: () => void keepCopy(),
    cut: async () => {
      if (keepCopy()) await remove();
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
    chooseAll: () => {
      const group = editor().inside;
      const list = group ? childrenOf(partOf(group)) : state.piece.parts;
      editor().choose(list.map((p) => p.id));
    },
  };
}

/**
 * The edit that joins parts, the first `bodies` of them as the body; parts that already stand together in a join, the
 * body first, only change how they enter.
 */
export function joinEdit(open: Open, ids: string[], op: Op | 'split', bodies: number): Edit | null {
  if (ids.length < 2) return null;
  if (op === 'split') return { kind: 'split', ids };
  if (sameJoin(open, ids)) return { kind: 'set_part', ids: ids.slice(bodies), fields: { op } as never };
  return { kind: 'join', ids, op, bodies: Math.min(bodies, ids.length - 1) };
}

/** The name of the part that becomes the body when a list loses its own; undefined when none is left. */
function heirOf(body: Part, join: Part, removed: string[]): string | undefined {
  return childrenOf(join).find((p) => p.id !== body.id && !p.reference && !removed.includes(p.id))?.name;
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
