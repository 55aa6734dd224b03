/** The tray of primitives: a click puts one down beside what is there, a drag drops it where the pointer is. */
import { useState } from 'react';
import { NavLink } from 'react-router';
import type { Primitive, PrimitiveInfo } from '../api/client';
import { usePrimitives } from '../api/pieces';
import { useEditor, type Vector } from '../controls/editor';
import { floorPoint } from '../viewport/pointer';
import type { ViewHandle } from '../viewport/View';
import type { Actions } from './actions';

const SLACK_PX = 6;

export function Tray({ actions, view }: { actions: Actions; view: ViewHandle }) {
  const primitives = usePrimitives().data ?? [];
  const families = [...new Set(primitives.map((p) => p.family))];
  const [family, setFamily] = useState('Round');
  const [hovered, setHovered] = useState<PrimitiveInfo | null>(null);
  const [ghost, setGhost] = useState<{ kind: string; x: number; y: number } | null>(null);

  const put = (info: PrimitiveInfo, at: Vector | null) =>
    void actions.putDown(info.sample as unknown as Primitive, at);

  const press = (e: React.PointerEvent, info: PrimitiveInfo) => {
    if (e.button !== 0) return;
    const start = { x: e.clientX, y: e.clientY };
    let dragging = false;
    const move = (m: PointerEvent) => {
      dragging ||= Math.hypot(m.clientX - start.x, m.clientY - start.y) > SLACK_PX;
      if (dragging) setGhost({ kind: info.kind, x: m.clientX, y: m.clientY });
    };
    const end = (m: PointerEvent) => {
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', end);
      window.removeEventListener('pointercancel', end);
      setGhost(null);
      if (!dragging || m.type === 'pointercancel' || !view.camera || !view.canvas) return;
      const at = floorPoint(view.camera, view.canvas, m.clientX, m.clientY, useEditor.getState().floor);
      if (at) put(info, at);
    };
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', end);
    window.addEventListener('pointercancel', end);
  };

  return (
    <section className="tray" aria-label="Primitives">
      <div className="families">
        <div role="tablist" aria-label="Families">
          {families.map((f) => (
            <button
              key={f}
              type="button"
              role="tab"
              aria-selected={f === family}
              onClick={() => setFamily(f)}
            >
              {f}
            </button>
          ))}
        </div>
        <span className="hint">
          {hovered
            ? `${hovered.label}: ${hovered.summary} · ${hovered.fields.map((f) => f.title.toLowerCase()).join(', ')}`
            : 'click to put one down, or drag it to its spot · / finds any by name'}
        </span>
        <NavLink
          className="plain small"
          to="../mend"
          relative="path"
          title="STL, 3MF, OBJ, PLY or GLB; or drop it on the view"
        >
          Bring in a mesh
        </NavLink>
      </div>
      <div className="tiles">
        {primitives
          .filter((p) => p.family === family)
          .map((info) => (
            <button
              key={info.kind}
              type="button"
              className="tile"
              onPointerDown={(e) => press(e, info)}
              onPointerEnter={() => setHovered(info)}
              onPointerLeave={() => setHovered(null)}
              onFocus={() => setHovered(info)}
              onBlur={() => setHovered(null)}
              onClick={() => put(info, null)}
            >
              <span>
                <img src={`/api/primitives/${info.kind}/tile.svg`} alt="" draggable={false} />
              </span>
              {info.label}
            </button>
          ))}
      </div>
      {ghost && (
        <img
          className="tray-ghost"
          style={{ left: ghost.x, top: ghost.y }}
          src={`/api/primitives/${ghost.kind}/tile.svg`}
          alt=""
        />
      )}
    </section>
  );
}
