/** One grip: a button that stands in the view, the same size however near, and is dragged with the pointer. */
import { Html } from '@react-three/drei';
import { useFrame, useThree } from '@react-three/fiber';
import { type ReactNode, useEffect, useRef } from 'react';
import * as THREE from 'three';
import { mmPerPixel, pointerRay } from '../pointer';

/** What a drag of a grip does: called with the ray through the pointer, first where it began. */
export type Pull = {
  begin: (ray: THREE.Ray) => ((ray: THREE.Ray) => void) | null;
  end: () => void;
  cancel: () => void;
};

type Props = {
  kind: string;
  label: string;
  /** Where it stands on the wheel, when a pixel is so many mm there. */
  at: (mm: number, camera: THREE.Camera) => THREE.Vector3;
  pivot: THREE.Vector3;
  pull: Pull;
  /** Which way it faces; facing away from the camera it is not shown. */
  facing?: THREE.Vector3;
  children?: ReactNode;
};

export function Grip({ kind, label, at, pivot, pull, facing, children }: Props) {
  const group = useRef<THREE.Group>(null);
  const button = useRef<HTMLButtonElement>(null);
  const { gl, get, camera, invalidate } = useThree();
  const stands = at(mmPerPixel(camera, gl.domElement, pivot), camera)
    .toArray()
    .join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is drawn anew where it stands now
  useEffect(() => invalidate(), [stands]);
  // Before the label is laid over the view, which happens at 0.
  useFrame(({ camera }) => {
    const stand = group.current;
    stand?.position.copy(at(mmPerPixel(camera, gl.domElement, pivot), camera));
    stand?.updateWorldMatrix(true, false);
    const away = facing && facing.dot(camera.getWorldDirection(new THREE.Vector3())) > 0.05;
    if (button.current) button.current.hidden = Boolean(away);
  }, -1);

  const press = (e: React.PointerEvent<HTMLButtonElement>) => {
    if (e.button !== 0) return;
    const held = e.currentTarget;
    const ray = (p: { clientX: number; clientY: number }) =>
      pointerRay(get().camera, gl.domElement, p.clientX, p.clientY).ray;
    const pulled = pull.begin(ray(e));
    if (!pulled) return;
    held.setPointerCapture(e.pointerId);
    const move = (m: PointerEvent) => pulled(ray(m));
    const stop = (how: () => void) => () => {
      held.removeEventListener('pointermove', move);
      held.removeEventListener('pointerup', up);
      held.removeEventListener('pointercancel', cancel);
      how();
    };
    const up = stop(pull.end);
    const cancel = stop(pull.cancel);
    held.addEventListener('pointermove', move);
    held.addEventListener('pointerup', up);
    held.addEventListener('pointercancel', cancel);
  };
  return (
    <group ref={group}>
      <Html center zIndexRange={[8, 7]}>
        <button
          ref={button}
          type="button"
          tabIndex={-1}
          className={`grip ${kind}`}
          aria-label={label}
          title={label}
          onPointerDown={press}
        >
          {children}
        </button>
      </Html>
    </group>
  );
}
