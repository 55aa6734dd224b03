/** What stands on the wheel, in the chosen way of looking. */

import { useMemo, useRef } from 'react';
import * as THREE from 'three';
import { useShallow } from 'zustand/react/shallow';
import type { Scene } from '../api/client';
import { BEGINNING, useEditor } from '../controls/editor';
import { idsHeld, idsWithin, type Known } from '../controls/tree';
import { ApartMarks } from './ApartMarks';
import { pulledApart, type Unit, unitsOf } from './apart';
import { CutFaceMesh } from './CutFaceMesh';
import { carriedParts } from './carry';
import { type BoxCorners, type Clip, clipTo } from './clip';
import { type Draft, useDraft } from './drafts';
import type { Drawable } from './meshes';
import { type Manner, PartMesh } from './PartMesh';
import { Skin, useSkin } from './ResultMesh';
import { SnapMarks } from './SnapMarks';

type Props = {
  /** Whose view it is: for a section's cut face. */
  piece?: string;
  scene: Scene;
  known: Map<string, Known>;
  onLost: () => void;
  plain?: boolean;
  /** The skin is of an earlier state: parts that it has not got are shown by themselves. */
  stale?: boolean;
};

const NOTHING = new Set<string>();
const PLAIN = { ...BEGINNING, look: 'result' as const, cutters: false, apart: 0 };

/** plain: the joined skin only, whatever the editor has in hand. */
export function PieceView({ piece, scene, known, onLost, plain = false, stale = false }: Props) {
  const { chosen, look, drag, cutters, inside, solo, apart } = useEditor(
    useShallow((s) => {
      const { chosen, look, drag, cutters, inside, solo, apart } = plain ? PLAIN : s;
      return { chosen, look, drag, cutters, inside, solo, apart };
    }),
  );
  const draft = useDraft((s) => (plain || !drag?.edit ? null : s.draft));
  const held = useMemo(() => idsHeld(known, chosen), [known, chosen]);
  const units = useMemo(
    () => (look === 'apart' ? unitsOf(scene, known, inside) : []),
    [look, scene, known, inside],
  );
  const outBy = useMemo(() => pulledApart(units), [units]);
  const carried = useMemo(
    () => (look === 'apart' ? drawnOut(units, outBy, apart) : carriedParts(known, drag)),
    [look, units, outBy, apart, known, drag],
  );
  const unseen = useMemo(() => unseenParts(known, solo), [known, solo]);
  const lit = useMemo(() => {
    const group = inside ? known.get(inside) : undefined;
    return group ? new Set(idsWithin(group.part)) : null;
  }, [known, inside]);
  // Meshes that cannot count yet are no part of the joined skin: they are shown as they are.
  const leftOut = new Set(scene.soundness?.left_out.map((l) => l.part));
  const carriedIds = useMemo(() => new Set(carried.keys()), [carried]);
  // With a draft of the skin in sight, what is carried is an outline that the skin snaps up with.
  const fits = draft !== null && (draft.box === null || draft.on === scene.result?.key);
  const asParts = look === 'parts' || look === 'apart';
  const following = fits && !asParts;
  // Until a large piece is joined for the first time, its parts are shown whole.
  const whole = asParts || scene.result === null;
  const without = useMemo(() => new Set([...unseen, ...carriedIds]), [unseen, carriedIds]);
  const paint = { known, held: look === 'result' ? held : NOTHING, lit, ghost: look === 'xray' };
  const inSkin = useMemo(() => new Set(scene.result?.parts), [scene.result]);
  const shown = scene.parts.flatMap((view) => {
    const part = known.get(view.id);
    const seen = part && view.key && (!unseen.has(view.id) || held.has(view.id));
    const dragged = carriedIds.has(view.id);
    const manner = seen
      ? mannerOf(
          part,
          look,
          cutters || held.has(view.id),
          whole || leftOut.has(view.id) || (dragged && !following) || (stale && !inSkin.has(view.id)),
        )
      : null;
    const outline = seen && dragged && following ? 'outline' : null;
    return part && (manner ?? outline) ? [{ view, part, manner: (manner ?? outline) as Manner }] : [];
  });
  return (
    <>
      {!asParts && (
        <JoinedSkin
          scene={scene}
          draft={following ? draft : null}
          piece={look === 'section' ? piece : undefined}
          onLost={onLost}
          without={following ? unseen : without}
          {...paint}
        />
      )}
      {shown.map(({ view, part, manner }) => (
        <PartMesh
          key={view.id}
          view={view}
          colour={part.colour}
          opacity={part.opacity}
          manner={manner}
          chosen={held.has(view.id)}
          carried={carried.get(view.id)}
          dim={lit !== null && !lit.has(view.id)}
          pickable={
            manner !== 'outline' && (look !== 'result' || manner === 'reference' || held.has(view.id))
          }
        />
      ))}
      {look === 'apart' && <ApartMarks units={units} by={outBy} share={apart} />}
      {drag && <SnapMarks snaps={drag.snaps} />}
    </>
  );
}

type JoinedProps = Omit<Parameters<typeof Skin>[0], 'drawable' | 'parts' | 'clip'> & {
  scene: Scene;
  draft: Draft | null;
  /** Whose cut face is shown. */
  piece?: string;
  onLost: () => void;
};

type Layer = { drawable: Drawable; parts: string[]; clip?: Clip };

/**
 * The joined skin; where it is out of date, a patch or a draft in its place, cut on the same planes. All of it changes at
 * once: while some of what is new loads, what was shown before goes on.
 */
function JoinedSkin({ scene, draft, piece, onLost, ...paint }: JoinedProps) {
  const { result, patch } = scene;
  const box = draft ? draft.box : (patch?.box ?? null);
  const [inside, outside] = useMemo(
    () => (box ? [clipTo(box as BoxCorners, 'inside'), clipTo(box as BoxCorners, 'outside')] : []),
    [box],
  );
  const skin = useSkin(result?.triangles ? result.key : null, result?.parts ?? [], onLost);
  const mend = useSkin(patch?.key ?? null, patch?.parts ?? [], onLost);
  const layersNow = (): Record<string, Layer> | null => {
    const layers: Record<string, Layer> = {};
    if (result?.triangles && (draft === null || draft.box !== null)) {
      if (!skin?.latest) return null;
      layers.skin = { ...skin, clip: outside };
    }
    if (draft) layers.draft = { drawable: draft.mesh, parts: draft.parts, clip: inside };
    else if (patch) {
      if (!mend?.latest) return null;
      layers.patch = { ...mend, clip: inside };
    }
    return layers;
  };
  const last = useRef({ layers: {} as Record<string, Layer>, paint });
  const layers = layersNow();
  if (layers) last.current = { layers, paint };
  return (
    <>
      {Object.entries(last.current.layers).map(([name, { drawable, parts, clip }]) => (
        <Skin key={name} drawable={drawable} parts={parts} clip={clip} {...last.current.paint} />
      ))}
      {/* Of what is not wholly joined yet the inside shows as one tone. */}
      {piece && result && !draft && !patch && (
        <CutFaceMesh piece={piece} result={result} known={paint.known} />
      )}
    </>
  );
}

/** Every part on its way out, by a share of all of it. */
function drawnOut(units: Unit[], by: Map<string, THREE.Vector3>, share: number): Map<string, THREE.Matrix4> {
  return new Map(
    units.flatMap(({ id, leaves }) => {
      const way = (by.get(id) ?? new THREE.Vector3()).clone().multiplyScalar(share);
      return leaves.map((leaf): [string, THREE.Matrix4] => [leaf, new THREE.Matrix4().makeTranslation(way)]);
    }),
  );
}

/** Hidden parts, and with a solo all others. */
function unseenParts(known: Map<string, Known>, solo: string[] | null): Set<string> {
  const alone = solo && idsHeld(known, solo);
  return new Set([...known].filter(([id, k]) => k.hidden || (alone && !alone.has(id))).map(([id]) => id));
}

/** How a part is drawn by itself, or null where the joined skin shows it. */
function mannerOf(part: Known, look: string, cutters: boolean, whole: boolean): Manner | null {
  if (part.reference) return 'reference';
  const ghost: Manner | null =
    part.role === 'difference' ? 'cut' : part.role === 'intersection' ? 'keep' : null;
  if (ghost) return cutters ? ghost : null;
  if (whole) return 'whole';
  return look === 'xray' ? 'outline' : null;
}
