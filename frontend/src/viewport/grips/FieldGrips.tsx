/** Handles of the chosen part, its form and its shape changes, as the server says where they stand and what they set. */

import * as THREE from 'three';
import type { Edit, Handle, Part } from '../../api/client';
import { useEditor } from '../../controls/editor';
import { short } from '../../controls/format';
import { HELD } from '../../controls/held';
import { toStep } from '../carry';
import type { DragContext } from '../dragContext';
import { matrixOf } from '../meshes';
import { alongAxis } from '../pointer';
import { Grip, type Pull } from './Grip';

const BESIDE_PX = 30;

export function FieldGrips({ context }: { context: DragContext }) {
  const chosen = useEditor((s) => s.chosen);
  const [id] = chosen;
  const part = id ? context.known.get(id)?.part : undefined;
  const view = context.scene.parts.find((p) => p.id === id);
  if (!part || !view || chosen.length > 1 || part.locked) return null;
  const frame = matrixOf(view.matrices[0] ?? []);
  return view.handles.map((handle) => {
    const at = new THREE.Vector3(...handle.at).applyMatrix4(frame);
    const along = new THREE.Vector3(...handle.along).transformDirection(frame);
    return (
      <Grip
        key={`${handle.of_part ? 'part' : (handle.change ?? 'own')} ${handle.field}`}
        kind="copy"
        label={handle.label}
        pivot={at}
        // Beside the point, where the grips of the part's own frame do not cover it: a seam's is on the side of the body.
        at={(mm) => at.clone().addScaledVector(along, (handle.of_part ? -BESIDE_PX : BESIDE_PX) * mm)}
        pull={pull(context, part, handle, at, along)}
      />
    );
  });
}

/** The edit by which a handle's field has a value. */
function put(part: Part, { change, field, of_part }: Handle, value: number): Edit {
  if (of_part) return { kind: 'set_part', ids: [part.id], fields: { [field]: value } as never };
  if (change === null)
    return { kind: 'set_primitive', id: part.id, primitive: { ...part.primitive, [field]: value } as never };
  const stack = part.changes.map((c, i) => (i === change ? { ...c, [field]: value } : c));
  return { kind: 'set_changes', id: part.id, stack: stack as never };
}

/** What a handle's field comes to when it is drawn so many mm. */
function drawn({ value, per, least, most }: Handle, by: number): number {
  const to = value + by * per;
  return Number(Math.min(most ?? to, Math.max(least ?? to, to)).toFixed(3));
}

function pull(
  context: DragContext,
  part: Part,
  handle: Handle,
  at: THREE.Vector3,
  along: THREE.Vector3,
): Pull {
  return {
    begin: (ray) => {
      const start = alongAxis(ray, at, along);
      if (start === null) return null;
      const step = context.preferences.grid_mm;
      return (r) => {
        const now = alongAxis(r, at, along);
        if (now === null) return;
        const by = toStep(now - start, HELD.free() ? 0.01 : step / (HELD.fine() ? 10 : 1));
        const to = drawn(handle, by);
        context.show({
          carried: new Map(),
          said: `${handle.label.toLowerCase()}: ${said(handle, to, by)}`,
          edit: by ? put(part, handle, to) : null,
          snaps: [],
        });
      };
    },
    end: context.letGo,
    cancel: context.cancel,
  };
}

/** A length is told by how far it is drawn, a radius over which a part runs in and all else by what it comes to. */
function said({ unit, of_part }: Handle, to: number, by: number): string {
  if (of_part) return `${short(to, 2)} mm`;
  if (unit === 'mm') return `${short(by, 2)} mm`;
  return unit === '°' ? `${short(to, 1)}°` : `${short(to, 2)} ${unit}`;
}
