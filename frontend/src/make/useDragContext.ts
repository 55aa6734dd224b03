/** Dragging in Make: the part follows the hand, the joined skin follows as drafts, letting go makes the edit. */
import { useMemo } from 'react';
import type { Edit } from '../api/client';
import { usePreferences } from '../api/preferences';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { useDrafts } from '../viewport/drafts';
import type { DragContext } from '../viewport/dragContext';
import { loadMesh } from '../viewport/meshes';
import type { ViewHandle } from '../viewport/View';

/** Shows what an edit would make of the piece, before it is done. */
export type Live = { show: (edit: Edit, said: string) => void; end: () => void };

export function liveOf(context: DragContext | null): Live {
  return {
    show: (edit, said) => context?.show({ carried: new Map(), said, edit, snaps: [] }),
    end: () => context?.cancel(),
  };
}

export function useDragContext(open: Open | null, view: ViewHandle): DragContext | null {
  const drafts = useDrafts(open?.id);
  const preferences = usePreferences();
  return useMemo(() => {
    const scene = open?.state.scene;
    if (!open || !scene || !drafts) return null;
    const drop = () => {
      useEditor.getState().setDrag(null);
      drafts.end();
    };
    return {
      scene,
      known: open.known,
      view,
      preferences,
      show: (drag) => {
        useEditor.getState().setDrag(drag);
        if (drag.edit) drafts.ask(drag.edit, open.state.revision);
      },
      letGo: async () => {
        const { drag } = useEditor.getState();
        if (!drag?.edit) return drop();
        const answer = await open.work.edit(drag.edit);
        // What was dragged stays where the hand left it until the exact skin is there too.
        const skin = answer?.scene?.patch ?? answer?.scene?.result;
        if (skin) await loadMesh(skin.key).catch(() => undefined);
        if (useEditor.getState().drag === drag) drop();
      },
      cancel: drop,
    };
  }, [open, drafts, preferences, view]);
}
