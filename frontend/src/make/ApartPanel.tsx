/** How far the piece is pulled apart, and of how many lines it is built. */
import { useMemo } from 'react';
import { useShallow } from 'zustand/react/shallow';
import type { Scene } from '../api/client';
import { useEditor } from '../controls/editor';
import { plural } from '../controls/format';
import type { Known } from '../controls/tree';
import { unitsOf } from '../viewport/apart';

export function ApartPanel({ scene, known }: { scene: Scene | null; known: Map<string, Known> }) {
  const { look, apart, inside, set } = useEditor(
    useShallow((s) => ({ look: s.look, apart: s.apart, inside: s.inside, set: s.set })),
  );
  const shown = look === 'apart' && scene !== null;
  const count = useMemo(
    () => (shown ? unitsOf(scene, known, inside).length : 0),
    [shown, scene, known, inside],
  );
  if (!shown) return null;
  return (
    <section className="panel section-panel" aria-label="Pulled apart">
      <b>Pulled apart</b>
      <input
        type="range"
        aria-label="How far it is pulled apart"
        min={0}
        max={1}
        step={0.01}
        value={apart}
        onChange={(e) => set({ apart: Number(e.currentTarget.value) })}
      />
      <span className="quiet">
        {plural(count, 'line')}, numbered as in the recipe; a double click opens a group
      </span>
    </section>
  );
}
