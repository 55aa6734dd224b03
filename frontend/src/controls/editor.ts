/** What the maker has in hand and how it is looked at: the one small store of the editor. */
import { create } from 'zustand';

export type Look = 'result' | 'parts' | 'xray';
export type Projection = 'perspective' | 'parallel';

/** A movement of the chosen parts that has not been let go of yet, mm on the wheel. */
export type Drag = { ids: string[]; by: [number, number, number] };

export type Editor = {
  /** The chosen parts, in the order of choosing: the first is the body of a join. */
  chosen: string[];
  look: Look;
  projection: Projection;
  cutters: boolean;
  /** Whether sizing one way sizes the others along. */
  proportions: boolean;
  drag: Drag | null;
  choose: (ids: string[]) => void;
  /** A click on a part: alone, or added to and taken from what is chosen. */
  pick: (id: string | null, more: boolean) => void;
  setLook: (look: Look) => void;
  setProjection: (projection: Projection) => void;
  toggleCutters: () => void;
  toggleProportions: () => void;
  setDrag: (drag: Drag | null) => void;
};

export const useEditor = create<Editor>((set) => ({
  chosen: [],
  look: 'result',
  projection: 'perspective',
  cutters: true,
  proportions: false,
  drag: null,
  choose: (chosen) => set({ chosen }),
  pick: (id, more) =>
    set(({ chosen }) => {
      if (id === null) return more ? {} : { chosen: [] };
      if (!more) return { chosen: [id] };
      return { chosen: chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id] };
    }),
  setLook: (look) => set({ look }),
  setProjection: (projection) => set({ projection }),
  toggleCutters: () => set(({ cutters }) => ({ cutters: !cutters })),
  toggleProportions: () => set(({ proportions }) => ({ proportions: !proportions })),
  setDrag: (drag) => set({ drag }),
}));
