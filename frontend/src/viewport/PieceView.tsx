/** What stands on the wheel, in the chosen way of looking. */
import { useMemo } from 'react';
import type { Scene } from '../api/client';
import { type Drag, type Look, useEditor } from '../controls/editor';
import { idsHeld, type Known } from '../controls/tree';
import { MeasuredFrame } from './MeasuredFrame';
import { type Manner, PartMesh } from './PartMesh';
import { ResultMesh } from './ResultMesh';

type Props = { scene: Scene; known: Map<string, Known>; onLost: () => void; plain?: boolean };

const NOTHING = new Set<string>();
const PLAIN = { chosen: [] as string[], look: 'result' as Look, drag: null as Drag | null, cutters: false };

/** plain: the joined skin only, whatever the editor has in hand. */
export function PieceView({ scene, known, onLost, plain = false }: Props) {
  const editor = useEditor();
  const { chosen, look, drag, cutters } = plain ? PLAIN : editor;
  const held = useMemo(() => idsHeld(known, chosen), [known, chosen]);
  const dragged = useMemo(() => (drag ? idsHeld(known, drag.ids) : NOTHING), [known, drag]);
  const tinted = look === 'result' ? held : NOTHING;
  const shown = scene.parts.flatMap((view) => {
    const part = known.get(view.id);
    const manner =
      part && view.key ? mannerOf(part, look, cutters, held.has(view.id), dragged.has(view.id)) : null;
    return part && manner ? [{ view, part, manner }] : [];
  });
  return (
    <>
      {look !== 'parts' && (
        <ResultMesh
          result={scene.result}
          known={known}
          held={tinted}
          without={dragged}
          ghost={look === 'xray'}
          onLost={onLost}
        />
      )}
      {shown.map(({ view, part, manner }) => (
        <PartMesh
          key={view.id}
          view={view}
          colour={part.colour}
          manner={manner}
          chosen={held.has(view.id)}
          by={dragged.has(view.id) ? drag?.by : undefined}
          pickable={
            manner !== 'outline' && (look !== 'result' || manner === 'reference' || held.has(view.id))
          }
        />
      ))}
      {scene.parts
        .filter((v) => chosen.includes(v.id))
        .map((view) => (
          <MeasuredFrame
            key={view.id}
            view={view}
            labels={chosen.length === 1}
            by={drag?.ids.includes(view.id) ? drag.by : undefined}
          />
        ))}
    </>
  );
}

/** How a part is drawn by itself, or null where the joined skin shows it. */
function mannerOf(
  part: Known,
  look: string,
  cutters: boolean,
  held: boolean,
  dragged: boolean,
): Manner | null {
  if (part.hidden && !held) return null;
  if (part.reference) return 'reference';
  const ghost: Manner | null =
    part.role === 'difference' ? 'cut' : part.role === 'intersection' ? 'keep' : null;
  if (look === 'parts') return ghost ? (cutters || held ? ghost : null) : 'whole';
  if (ghost) return cutters || held ? ghost : null;
  if (dragged) return 'whole';
  return look === 'xray' ? 'outline' : null;
}
