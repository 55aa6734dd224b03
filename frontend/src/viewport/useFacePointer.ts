/** Pointing at faces: where the pointer rests, and which is picked, by a click or, by Enter, what the view's middle shows. */
import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import type * as THREE from 'three';
import { pointerRay } from './pointer';
import { usePointer } from './usePointer';

type Handlers = { over?: (ray: THREE.Raycaster) => void; pick: (ray: THREE.Raycaster) => void };

export function useFacePointer({ over, pick }: Handlers) {
  const { gl, get } = useThree();
  usePointer<true>(true, {
    down: () => true,
    over: ({ ray }) => over?.(ray),
    click: (_, { ray }) => pick(ray),
  });

  const latest = useRef(pick);
  latest.current = pick;
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.key !== 'Enter' || (e.target as HTMLElement).closest('input, button')) return;
      e.stopImmediatePropagation();
      const box = gl.domElement.getBoundingClientRect();
      const [x, y] = [box.left + box.width / 2, box.top + box.height / 2];
      latest.current(pointerRay(get().camera, gl.domElement, x, y));
    };
    window.addEventListener('keydown', key, true);
    return () => window.removeEventListener('keydown', key, true);
  }, [gl, get]);
}
