/** Looking at a section: what lies on one side of a plane is not drawn, and what is cut shows its inside as one tone. */

import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { useShallow } from 'zustand/react/shallow';
import { type SectionAt, useEditor } from '../controls/editor';
import { short } from '../controls/format';
import { HELD } from '../controls/held';
import { toStep } from './carry';
import type { DragContext } from './dragContext';
import { Grip } from './grips/Grip';
import { alongAxis } from './pointer';

const OUT: Record<SectionAt['axis'], [number, number, number]> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** The planes that hide what lies before the section; none in any other way of looking. */
export function useSectionPlanes(): THREE.Plane[] {
  const gl = useThree((s) => s.gl);
  const section = useEditor((s) => (s.look === 'section' ? s.section : null));
  useEffect(() => {
    gl.localClippingEnabled = true;
  }, [gl]);
  return useMemo(() => {
    if (!section) return [];
    const { axis, at, flipped } = section;
    const keep = new THREE.Vector3(...OUT[axis]).multiplyScalar(axis === 'y' ? 1 : -1);
    if (flipped) keep.negate();
    const point = new THREE.Vector3(...OUT[axis]).multiplyScalar(at);
    return [new THREE.Plane().setFromNormalAndCoplanarPoint(keep, point)];
  }, [section]);
}

/** The handle of the section's plane, in the middle of what is cut. */
export function SectionGrip({ context }: { context: DragContext }) {
  const { look, section, set } = useEditor(
    useShallow((s) => ({ look: s.look, section: s.section, set: s.set })),
  );
  const bounds = context.scene.soundness?.bounds;
  if (look !== 'section' || !section || !bounds) return null;
  const k = 'xyz'.indexOf(section.axis);
  const axis = new THREE.Vector3(...OUT[section.axis]);
  const middle = new THREE.Vector3(...bounds[0]).add(new THREE.Vector3(...bounds[1])).multiplyScalar(0.5);
  const at = middle.setComponent(k, section.at);
  return (
    <Grip
      kind="copy"
      label={`The section: ${section.axis} at ${short(section.at, 2)} mm`}
      pivot={at}
      at={() => at}
      pull={{
        begin: (ray) => {
          const start = alongAxis(ray, at, axis);
          if (start === null) return null;
          return (r) => {
            const now = alongAxis(r, at, axis);
            if (now === null) return;
            const step = HELD.free() ? 0.01 : HELD.fine() ? 0.1 : 0.5;
            set({ section: { ...section, at: Number(toStep(section.at + now - start, step).toFixed(6)) } });
          };
        },
        end: () => undefined,
        cancel: () => undefined,
      }}
    />
  );
}
