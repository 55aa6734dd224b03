/** The pointer in the view: a click picks, a drag on a chosen part moves it over the floor, anything else turns the eye. */
import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import * as THREE from 'three';
import { useEditor } from '../controls/editor';
import { idsHeld, type Known } from '../controls/tree';
import type { Pickable } from './ResultMesh';
import type { ViewHandle } from './View';

const SLACK_PX = 4;

type Props = {
  known: Map<string, Known>;
  view: ViewHandle;
  onMove: (ids: string[], by: [number, number, number]) => void;
};

/** Where the pointer went down: on which part, and, where that may be dragged, from which point over which plane. */
type Press = {
  x: number;
  y: number;
  id: string | null;
  from: THREE.Vector3 | null;
  plane: THREE.Plane;
  moving: boolean;
};

export function Hand(props: Props) {
  const { gl, get, invalidate } = useThree();
  // The listeners stay the same through a whole gesture, whatever is drawn anew meanwhile.
  const latest = useRef(props);
  latest.current = props;

  useEffect(() => {
    const canvas = gl.domElement;
    let press: Press | null = null;

    const rayAt = (e: PointerEvent) => pointerRay(get().camera, canvas, e.clientX, e.clientY);

    const down = (e: PointerEvent) => {
      if (e.button !== 0 || e.target !== canvas) return;
      const { known, view } = latest.current;
      const { chosen } = useEditor.getState();
      const hit = firstHit(rayAt(e), get().scene);
      const locked = chosen.some((id) => known.get(id)?.part.locked);
      const mine = hit !== null && !locked && idsHeld(known, chosen).has(hit.id);
      press = {
        x: e.clientX,
        y: e.clientY,
        id: hit?.id ?? null,
        from: mine ? hit.point : null,
        plane: mine ? dragPlane(get().camera, hit.point) : new THREE.Plane(),
        moving: false,
      };
      if (mine) view.eye?.hold(true);
    };

    const move = (e: PointerEvent) => {
      if (!press?.from) return;
      if (!press.moving && Math.hypot(e.clientX - press.x, e.clientY - press.y) < SLACK_PX) return;
      press.moving = true;
      const now = rayAt(e).ray.intersectPlane(press.plane, new THREE.Vector3());
      if (!now) return;
      const perMm = e.shiftKey ? 10 : 1;
      const [x, y, z] = now.sub(press.from).toArray();
      const whole = (v: number) => Math.round(v * perMm) / perMm + 0;
      useEditor.getState().setDrag({ ids: useEditor.getState().chosen, by: [whole(x), whole(y), whole(z)] });
      invalidate();
    };

    const up = (e: PointerEvent) => {
      const was = press;
      press = null;
      latest.current.view.eye?.hold(false);
      if (!was || e.button !== 0) return;
      const { drag, setDrag, pick } = useEditor.getState();
      if (was.moving) {
        if (drag?.by.some((v) => v !== 0)) latest.current.onMove(drag.ids, drag.by);
        else setDrag(null);
      } else if (Math.hypot(e.clientX - was.x, e.clientY - was.y) < SLACK_PX) {
        pick(was.id, e.shiftKey || e.ctrlKey || e.metaKey);
        invalidate();
      }
    };

    const cancel = () => {
      press = null;
      latest.current.view.eye?.hold(false);
      useEditor.getState().setDrag(null);
    };

    // On the window in the capture phase, so that a drag is claimed before the eye turns.
    window.addEventListener('pointerdown', down, true);
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', up);
    window.addEventListener('pointercancel', cancel);
    return () => {
      window.removeEventListener('pointerdown', down, true);
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', up);
      window.removeEventListener('pointercancel', cancel);
    };
  }, [gl, get, invalidate]);

  return null;
}

/** The ray from the eye through a point of the page. */
function pointerRay(camera: THREE.Camera, canvas: HTMLCanvasElement, x: number, y: number): THREE.Raycaster {
  const box = canvas.getBoundingClientRect();
  const ray = new THREE.Raycaster();
  ray.setFromCamera(
    new THREE.Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2),
    camera,
  );
  return ray;
}

/** The nearest part under the pointer. */
function firstHit(ray: THREE.Raycaster, scene: THREE.Scene): { id: string; point: THREE.Vector3 } | null {
  for (const hit of ray.intersectObjects(scene.children, true)) {
    const tag = hit.object.userData as Partial<Pickable>;
    const id = hit.faceIndex != null ? tag.partAt?.(hit.faceIndex) : undefined;
    if (id) return { id, point: hit.point.clone() };
  }
  return null;
}

/** The floor through the point; looked at along the floor, the upright plane that faces the eye. */
function dragPlane(camera: THREE.Camera, point: THREE.Vector3): THREE.Plane {
  const facing = camera.getWorldDirection(new THREE.Vector3());
  const normal = Math.abs(facing.z) > 0.18 ? new THREE.Vector3(0, 0, 1) : facing.setZ(0).normalize();
  return new THREE.Plane().setFromNormalAndCoplanarPoint(normal, point);
}

/** Where on the floor a point of the page is, mm; used by what is dropped from the tray. */
export function floorPoint(
  camera: THREE.Camera,
  canvas: HTMLCanvasElement,
  x: number,
  y: number,
): [number, number] | null {
  const box = canvas.getBoundingClientRect();
  if (x < box.left || x > box.right || y < box.top || y > box.bottom) return null;
  const floor = new THREE.Plane(new THREE.Vector3(0, 0, 1), 0);
  const at = pointerRay(camera, canvas, x, y).ray.intersectPlane(floor, new THREE.Vector3());
  return at && Math.hypot(at.x, at.y) < 5000 ? [Math.round(at.x), Math.round(at.y)] : null;
}
