/** Looking at a section: what lies on one side of a plane is not drawn, and what is cut shows the cut face. */

import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { useShallow } from 'zustand/react/shallow';
import { useEditor } from '../controls/editor';
import { short } from '../controls/format';
import { HELD } from '../controls/held';
import { toStep } from './carry';
import type { DragContext } from './dragContext';
import { Grip } from './grips/Grip';
import { alongAxis } from './pointer';
import { planeOf } from './sectionAt';

/** The planes that hide what lies before the section; none in any other way of looking. */
export function useSectionPlanes(): THREE.Plane[] {
  const gl = useThree((s) => s.gl);
  const section = useEditor((s) => (s.look === 'section' ? s.section : null));
  useEffect(() => {
    gl.localClippingEnabled = true;
  }, [gl]);
  return useMemo(() => {
    if (!section) return [];
    const { normal, at } = planeOf(section);
    return [new THREE.Plane(new THREE.Vector3(...normal).negate(), at)];
  }, [section]);
}

/** The handle of the section's plane, in the middle of what is cut. */
export function SectionGrip({ context }: { context: DragContext }) {
  const { look, section, set } = useEditor(
    useShallow((s) => ({ look: s.look, section: s.section, set: s.set })),
  );
  const bounds = context.scene.soundness?.bounds;
  if (look !== 'section' || !section || !bounds) return null;
  const axis = new THREE.Vector3(...section.along);
  const middle = new THREE.Vector3(...bounds[0]).add(new THREE.Vector3(...bounds[1])).multiplyScalar(0.5);
  const at = middle.addScaledVector(axis, section.base + section.at - middle.dot(axis));
  const where = section.name === 'face' ? 'from the face' : `${section.name} at`;
  return (
    <Grip
      kind="copy"
      label={`The section: ${where} ${short(section.at, 2)} mm`}
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
