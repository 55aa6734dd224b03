/** The pointer in the view: a click picks, a drag on a chosen part moves it over the floor, anything else turns the camera. */
import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import * as THREE from 'three';
import { type Floor, useEditor } from '../controls/editor';
import { idsHeld, type Known, parentsOf } from '../controls/tree';
import { outermost } from './carry';
import { type DragContext, moveDrag, snapReach } from './dragContext';
import { firstHit, pointerRay } from './pointer';
import { Snapper } from './snapping';

const SLACK_PX = 4;

/** Where the pointer went down: on which part, and, where that may be dragged, from which point over which plane. */
type Press = {
  x: number;
  y: number;
  id: string | null;
  from: THREE.Vector3 | null;
  plane: THREE.Plane;
  ids: string[];
  snapper: Snapper | null;
  moving: boolean;
};

export function MoveTool({ context }: { context: DragContext }) {
  const { gl, get, invalidate } = useThree();
  const tool = useEditor((s) => s.tool);
  // The listeners stay the same through a whole gesture, whatever is drawn anew meanwhile.
  const latest = useRef(context);
  latest.current = context;

  useEffect(() => {
    if (tool !== 'hand') return;
    const canvas = gl.domElement;
    let press: Press | null = null;

    const rayAt = (e: PointerEvent | MouseEvent) => pointerRay(get().camera, canvas, e.clientX, e.clientY);

    const down = (e: PointerEvent) => {
      if (e.button !== 0 || e.target !== canvas) return;
      const { known, view } = latest.current;
      const { chosen, floor } = useEditor.getState();
      const hit = firstHit(rayAt(e), get().scene);
      const locked = chosen.some((id) => known.get(id)?.part.locked);
      const mine = hit !== null && !locked && idsHeld(known, chosen).has(hit.id);
      press = {
        x: e.clientX,
        y: e.clientY,
        id: hit?.id ?? null,
        from: mine ? hit.point : null,
        plane: mine ? dragPlane(get().camera, hit.point, floor) : new THREE.Plane(),
        ids: mine ? outermost(known, chosen) : [],
        snapper: null,
        moving: false,
      };
      if (mine) view.rig?.hold(true);
    };

    const move = (e: PointerEvent) => {
      if (!press?.from) return;
      if (!press.moving && Math.hypot(e.clientX - press.x, e.clientY - press.y) < SLACK_PX) return;
      press.moving = true;
      const { scene, known, show } = latest.current;
      const now = rayAt(e).ray.intersectPlane(press.plane, new THREE.Vector3());
      if (!now) return;
      press.snapper ??= new Snapper(scene, known, idsHeld(known, press.ids), press.ids);
      const raw = now.sub(press.from).toArray();
      const room = snapReach(get().camera, canvas, press.from);
      show(moveDrag(press.ids, raw, freeAxes(press.plane.normal), press.snapper, room, latest.current));
      invalidate();
    };

    const up = (e: PointerEvent) => {
      const was = press;
      press = null;
      const { view, known, letGo } = latest.current;
      view.rig?.hold(false);
      if (!was || e.button !== 0) return;
      if (was.moving) letGo();
      else if (Math.hypot(e.clientX - was.x, e.clientY - was.y) < SLACK_PX) {
        pickAt(known, was.id, e.shiftKey || e.ctrlKey || e.metaKey);
        invalidate();
      }
    };

    const enter = (e: MouseEvent) => {
      if (e.target !== canvas) return;
      const hit = firstHit(rayAt(e), get().scene);
      if (hit) goInto(latest.current.known, hit.id);
    };

    const cancel = () => {
      press = null;
      latest.current.view.rig?.hold(false);
      latest.current.cancel();
    };

    // On the window in the capture phase, so that a drag is claimed before the camera turns.
    window.addEventListener('pointerdown', down, true);
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', up);
    window.addEventListener('pointercancel', cancel);
    window.addEventListener('dblclick', enter);
    return () => {
      window.removeEventListener('pointerdown', down, true);
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', up);
      window.removeEventListener('pointercancel', cancel);
      window.removeEventListener('dblclick', enter);
    };
  }, [gl, get, invalidate, tool]);

  return null;
}

/** Picks what a part belongs to: the part of the wheel, or of the group that was entered, that holds it. */
function pickAt(known: Map<string, Known>, id: string | null, more: boolean) {
  const { inside, pick, set } = useEditor.getState();
  if (id === null) return pick(null, more);
  const line = [...parentsOf(known, id), id];
  const at = inside ? line.indexOf(inside) : -1;
  if (at < 0 && inside) set({ inside: null });
  pick(line[Math.min(at + 1, line.length - 1)] as string, more);
}

/** One step into the groups around a part: a double click on it. */
function goInto(known: Map<string, Known>, id: string) {
  const { inside, set } = useEditor.getState();
  const line = [...parentsOf(known, id), id];
  const at = (inside ? line.indexOf(inside) : -1) + 1;
  const next = line[at + 1];
  if (next) set({ inside: line[at] as string, chosen: [next] });
}

/** The floor through the point; looked at along the floor, the upright plane that faces the camera. */
function dragPlane(camera: THREE.Camera, point: THREE.Vector3, floor: Floor | null): THREE.Plane {
  const facing = camera.getWorldDirection(new THREE.Vector3());
  const up = new THREE.Vector3(...(floor?.normal ?? [0, 0, 1]));
  const along = Math.abs(facing.dot(up)) <= 0.18;
  const normal = along ? facing.addScaledVector(up, -facing.dot(up)).normalize() : up;
  return new THREE.Plane().setFromNormalAndCoplanarPoint(normal, point);
}

/** The axes of the wheel along which a drag over a plane moves. */
const freeAxes = (normal: THREE.Vector3): [boolean, boolean, boolean] =>
  normal.toArray().map((n) => Math.abs(n) < 1 - 1e-6) as [boolean, boolean, boolean];
