/** The pointer in the view: a click picks, a drag on a chosen part moves it over the floor, anything else turns the eye. */
import { useThree } from '@react-three/fiber';
import { useEffect } from 'react';
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

export function Hand({ known, view, onMove }: Props) {
  const { gl, camera, scene, invalidate } = useThree();

  useEffect(() => {
    const canvas = gl.domElement;
    const ray = new THREE.Raycaster();

    const aim = (e: PointerEvent) => {
      const box = canvas.getBoundingClientRect();
      const x = ((e.clientX - box.left) / box.width) * 2 - 1;
      const y = 1 - ((e.clientY - box.top) / box.height) * 2;
      ray.setFromCamera(new THREE.Vector2(x, y), camera);
    };

    let pressed: {
      x: number;
      y: number;
      id: string | null;
      at: THREE.Vector3 | null;
      moving: boolean;
    } | null = null;
    let plane = new THREE.Plane();

    const down = (e: PointerEvent) => {
      if (e.button !== 0) return;
      aim(e);
      const hit = firstHit(ray, scene);
      pressed = { x: e.clientX, y: e.clientY, id: hit?.id ?? null, at: hit?.point ?? null, moving: false };
      const { chosen } = useEditor.getState();
      if (hit && idsHeld(known, chosen).has(hit.id) && !chosen.some((id) => known.get(id)?.part.locked)) {
        view.eye?.hold(true);
        plane = dragPlane(camera, hit.point);
      } else {
        pressed.at = null;
      }
    };

    const move = (e: PointerEvent) => {
      if (!pressed?.at) return;
      if (!pressed.moving && Math.hypot(e.clientX - pressed.x, e.clientY - pressed.y) < SLACK_PX) return;
      pressed.moving = true;
      aim(e);
      const now = ray.ray.intersectPlane(plane, new THREE.Vector3());
      if (!now) return;
      const step = e.shiftKey ? 0.1 : 1;
      const by = now
        .sub(pressed.at)
        .toArray()
        .map((v) => Math.round(Math.round(v / step) * step * 10) / 10);
      useEditor.getState().setDrag({ ids: useEditor.getState().chosen, by: by as [number, number, number] });
      invalidate();
    };

    const up = (e: PointerEvent) => {
      const was = pressed;
      pressed = null;
      view.eye?.hold(false);
      if (!was || e.button !== 0) return;
      const { drag, setDrag, pick } = useEditor.getState();
      if (was.moving) {
        if (drag?.by.some((v) => v !== 0)) onMove(drag.ids, drag.by);
        else setDrag(null);
      } else if (Math.hypot(e.clientX - was.x, e.clientY - was.y) < SLACK_PX) {
        pick(was.id, e.shiftKey || e.ctrlKey || e.metaKey);
        invalidate();
      }
    };

    const cancel = () => {
      pressed = null;
      view.eye?.hold(false);
      useEditor.getState().setDrag(null);
    };

    // On the canvas's parent in the capture phase, so that a drag is claimed before the eye turns.
    const catcher = canvas.parentElement ?? canvas;
    catcher.addEventListener('pointerdown', down, true);
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', up);
    window.addEventListener('pointercancel', cancel);
    return () => {
      catcher.removeEventListener('pointerdown', down, true);
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', up);
      window.removeEventListener('pointercancel', cancel);
    };
  }, [gl, camera, scene, invalidate, known, view, onMove]);

  return null;
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
  const ray = new THREE.Raycaster();
  ray.setFromCamera(
    new THREE.Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2),
    camera,
  );
  const at = ray.ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 0, 1), 0), new THREE.Vector3());
  return at && Math.hypot(at.x, at.y) < 5000 ? [Math.round(at.x), Math.round(at.y)] : null;
}
