/** Everything that was found in a piece, in its recipe and in its meshes; and which of it is listed just now. */
import { useMemo, useState } from 'react';
import { useMeshFindings } from '../api/jobs';
import { useNeeds } from '../api/pieces';
import type { Open } from '../controls/PieceFrame';
import { grouped } from './finding';
import { listMeshFindings } from './meshFindings';
import { listNeeds } from './needFindings';

export function useFindings(open: Open | null) {
  const id = open?.id ?? '';
  const needs = useNeeds(open?.state);
  const meshes = useMeshFindings(id, open?.state.revision) ?? [];
  const [chosen, choose] = useState<string | null>(null);
  const scene = open?.state.scene;
  const recipe = useMemo(
    () => (needs.data && open ? listNeeds(needs.data, open.known) : []),
    [needs.data, open],
  );
  const all = useMemo(
    () => [...(open && scene ? listMeshFindings(meshes, scene.parts, open.known) : []), ...recipe],
    [meshes, recipe, open, scene],
  );
  const ofChosen = all.filter((f) => chosen !== null && f.parts.includes(chosen));
  // In the order in which they are listed; of a part that has none any more, all.
  const listed = grouped(ofChosen.length ? ofChosen : all).flatMap((group) => group.findings);
  return {
    /** What the recipe needs, and what was found in meshes, as the server told it. */
    needs: needs.data,
    failure: needs.error,
    meshes,
    /** The same as findings: of the recipe, all, and those that are listed. */
    recipe,
    all,
    listed,
    /** The part whose findings are listed; null for the whole piece. */
    of: ofChosen.length ? chosen : null,
    choose,
  };
}

export type Found = ReturnType<typeof useFindings>;
