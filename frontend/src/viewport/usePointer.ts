/** The pointer over the view, for every tool: presses that begin on the canvas, what follows them, and where it rests. */
import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import type * as THREE from 'three';
import { pointerRay } from './pointer';

/** Pixels that a press may move and still be a click. */
const SLACK_PX = 4;

/** Where the pointer is, and the ray from the camera through it. */
export type At = { event: MouseEvent; x: number; y: number; ray: THREE.Raycaster };

type Handlers<Held> = {
  /** The pointer went down on the canvas; what is given is held until it comes up, and handed to what follows. */
  down?: (at: At) => Held | null;
  /** It moves, held down, farther than a click does. */
  drag?: (held: Held, at: At) => void;
  /** It moves over the canvas without being held down. */
  over?: (at: At) => void;
  /** It came up after a drag, or without one: then it was a click. */
  drop?: (held: Held, at: At) => void;
  click?: (held: Held, at: At) => void;
  doubleClick?: (at: At) => void;
  /** What began is not to be: the press was taken away. */
  cancel?: () => void;
  /** However it ended. */
  released?: () => void;
};

/** While `active`. The listeners stay the same through a whole gesture, whatever is drawn anew meanwhile. */
export function usePointer<Held>(active: boolean, handlers: Handlers<Held>) {
  const { gl, get, invalidate } = useThree();
  const latest = useRef(handlers);
  latest.current = handlers;

  useEffect(() => {
    if (!active) return;
    const canvas = gl.domElement;
    let press: { x: number; y: number; held: Held; dragged: boolean } | null = null;
    const at = (event: MouseEvent): At => {
      const { clientX: x, clientY: y } = event;
      return { event, x, y, ray: pointerRay(get().camera, canvas, x, y) };
    };
    const far = (e: MouseEvent) =>
      press !== null && Math.hypot(e.clientX - press.x, e.clientY - press.y) >= SLACK_PX;

    const down = (e: PointerEvent) => {
      if (e.button !== 0 || e.target !== canvas) return;
      const held = latest.current.down?.(at(e)) ?? null;
      press = held === null ? null : { x: e.clientX, y: e.clientY, held, dragged: false };
    };
    const move = (e: PointerEvent) => {
      if (!press) {
        if (e.target === canvas) latest.current.over?.(at(e));
        return;
      }
      if (!latest.current.drag || (!press.dragged && !far(e))) return;
      press.dragged = true;
      latest.current.drag(press.held, at(e));
      invalidate();
    };
    const up = (e: PointerEvent) => {
      const was = press;
      const moved = far(e);
      press = null;
      latest.current.released?.();
      if (!was || e.button !== 0) return;
      if (was.dragged) latest.current.drop?.(was.held, at(e));
      else if (!moved) latest.current.click?.(was.held, at(e));
      invalidate();
    };
    const double = (e: MouseEvent) => {
      if (e.target === canvas) latest.current.doubleClick?.(at(e));
    };
    const cancel = () => {
      press = null;
      latest.current.released?.();
      latest.current.cancel?.();
    };

    // On the window in the capture phase, so that a drag is claimed before the camera turns.
    window.addEventListener('pointerdown', down, true);
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', up);
    window.addEventListener('pointercancel', cancel);
    window.addEventListener('dblclick', double);
    return () => {
      window.removeEventListener('pointerdown', down, true);
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', up);
      window.removeEventListener('pointercancel', cancel);
      window.removeEventListener('dblclick', double);
    };
  }, [active, gl, get, invalidate]);
}
