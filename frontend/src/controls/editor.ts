/** What the maker has in hand and how it is looked at: the one small store of the editor. */
import type * as THREE from 'three';
import { create } from 'zustand';
import type { Edit } from '../api/client';

export type Look = 'result' | 'parts' | 'xray' | 'section' | 'apart';
/** How the skin is drawn: in its glazes; to judge its form, its triangles, or how smooth it is. */
export type Surface = 'glazed' | 'clay' | 'wires' | 'bands';
export type Projection = 'perspective' | 'parallel';
export type Vector = [number, number, number];

/** A plane that counts as the floor for now. */
export type Floor = { point: Vector; normal: Vector; name: string };

/** Something that a dragged part was caught by: a line to draw, and what it is. */
export type Snap = { from: Vector; to: Vector; words: string };

/**
 * Parts that are being carried and have not been let go of yet: for each a map of the wheel. said: by how much, where
 * to. edit: what letting go will do; null for a preview.
 */
export type Drag = {
  carried: Map<string, THREE.Matrix4>;
  said: string;
  edit: Edit | null;
  snaps: Snap[];
};

/**
 * A plane that the view is cut by: across `along`, a direction of length 1, `at` mm from where that is `base` mm from the
 * wheel's middle. away: 1 where what lies farther along is not drawn, -1 where the rest is not. name: an axis, or "face".
 */
export type SectionAt = {
  name: 'x' | 'y' | 'z' | 'face';
  along: Vector;
  base: number;
  at: number;
  away: 1 | -1;
};

/** depth: how deep it is sunk in; null for as deep as Preferences say. */
export type SeatWish = { where: 'middle' | 'point'; turned: boolean; depth: number | null };

/** What parts were duplicated from, in order: for duplicating again by the same step. */
export type Step = { ids: string[]; before: string[] };

export type Editor = {
  /** The chosen parts, in the order of choosing: the first is the body of a join. */
  chosen: string[];
  /** The join that was entered: its parts are picked one by one, the rest is dimmed. */
  inside: string | null;
  /** The only parts in sight, or null for all. */
  solo: string[] | null;
  look: Look;
  surface: Surface;
  section: SectionAt | null;
  /** How far the piece is pulled apart, 0 to 1. */
  apart: number;
  projection: Projection;
  cutters: boolean;
  /** Whether sizing one way sizes the others along. */
  proportions: boolean;
  /** The name of the tool of the view that is in hand. */
  tool: string;
  /** Whether drawing around parts takes those touched, or only those wholly inside. */
  enclosed: boolean;
  seat: SeatWish;
  /** Whether a limb's points are caught by other parts' surfaces while they are dragged. */
  onSurfaces: boolean;
  floor: Floor | null;
  drag: Drag | null;
  step: Step | null;
  finder: boolean;
  choose: (ids: string[]) => void;
  /** A click on a part: alone, or added to and taken from what is chosen. */
  pick: (id: string | null, more: boolean) => void;
  setDrag: (drag: Drag | null) => void;
  set: (values: Partial<Editor>) => void;
};

export const BEGINNING = {
  chosen: [] as string[],
  inside: null,
  solo: null,
  tool: 'hand' as string,
  floor: null,
  drag: null,
  step: null,
  finder: false,
};

export const useEditor = create<Editor>((set) => ({
  ...BEGINNING,
  look: 'result',
  surface: 'glazed',
  section: null,
  apart: 1,
  projection: 'perspective',
  cutters: true,
  proportions: false,
  enclosed: false,
  onSurfaces: false,
  seat: { where: 'middle', turned: true, depth: null },
  choose: (chosen) => set({ chosen }),
  pick: (id, more) =>
    set(({ chosen }) => {
      if (id === null) return more ? {} : { chosen: [] };
      if (!more) return { chosen: [id] };
      return { chosen: chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id] };
    }),
  setDrag: (drag) => set({ drag }),
  set,
}));
