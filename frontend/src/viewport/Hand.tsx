/** The pointer in the view: a click picks, a drag on a chosen part moves it over the floor, anything else turns the eye. */
import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import * as THREE from 'three';
import type { Scene } from '../api/client';
import type { Preferences } from '../api/preferences';
import { type Drag, useEditor, type Vector } from '../controls/editor';
import { short } from '../controls/format';
import { HELD } from '../controls/held';
import { idsHeld, type Known, parentsOf } from '../controls/tree';
import { moved, outermost, toStep } from './carry';
import { Catcher } from './catches';
import { mmPerPixel, pointerRay } from './pointer';
import type { Pickable } from './ResultMesh';
import type { ViewHandle } from './View';

const SLACK_PX = 4;
const REACH_PX = 8;

/** What a drag needs to know, and whom it tells. */
export type Reins = {
  scene: Scene;
  known: Map<string, Known>;
  view: ViewHandle;
  preferences: Preferences;
  show: (drag: Drag) => void;
  letGo: () => void;
  cancel: () => void;
};

/** Where the pointer went down: on which part, and, where that may be dragged, from which point over which plane. */
type Press = {
  x: number;
  y: number;
  id: string | null;
  from: THREE.Vector3 | null;
  plane: THREE.Plane;
  ids: string[];
  catcher: Catcher | null;
  moving: boolean;
};

export function Hand({ reins }: { reins: Reins }) {
  const { gl, get, invalidate } = useThree();
  const tool = useEditor((s) => s.tool);
  // The listeners stay the same through a whole gesture, whatever is drawn anew meanwhile.
  const latest = useRef(reins);
  latest.current = reins;

  useEffect(() => {
    if (tool !== 'hand') return;
    const canvas = gl.domElement;
    let press: Press | null = null;

    const rayAt = (e: PointerEvent | MouseEvent) => pointerRay(get().camera, canvas, e.clientX, e.clientY);

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
        ids: mine ? outermost(known, chosen) : [],
        catcher: null,
        moving: false,
      };
      if (mine) view.eye?.hold(true);
    };

    const move = (e: PointerEvent) => {
      if (!press?.from) return;
      if (!press.moving && Math.hypot(e.clientX - press.x, e.clientY - press.y) < SLACK_PX) return;
      press.moving = true;
      const { scene, known, show } = latest.current;
      const now = rayAt(e).ray.intersectPlane(press.plane, new THREE.Vector3());
      if (!now) return;
      press.catcher ??= new Catcher(scene, known, idsHeld(known, press.ids), press.ids);
      const flat = press.plane.normal.z > 0.5;
      const free: [boolean, boolean, boolean] = flat ? [true, true, false] : [true, true, true];
      show(
        moveDrag(
          press.ids,
          now.sub(press.from).toArray(),
          free,
          press.catcher,
          reach(get().camera, canvas, press.from),
          latest.current,
        ),
      );
      invalidate();
    };

    const up = (e: PointerEvent) => {
      const was = press;
      press = null;
      const { view, known, letGo } = latest.current;
      view.eye?.hold(false);
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
      latest.current.view.eye?.hold(false);
      latest.current.cancel();
    };

    // On the window in the capture phase, so that a drag is claimed before the eye turns.
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

const reach = (camera: THREE.Camera, canvas: HTMLCanvasElement, at: THREE.Vector3) =>
  REACH_PX * mmPerPixel(camera, canvas, at);

/** A movement by a hand: in steps of the grid, or caught by other parts. */
export function moveDrag(
  ids: string[],
  raw: Vector,
  free: [boolean, boolean, boolean],
  catcher: Catcher,
  reach: number,
  { preferences }: Reins,
): Drag {
  const step = preferences.grid_mm / (HELD.fine() ? 10 : 1);
  const loose = HELD.free() || !preferences.snapping;
  const stepped = raw.map((v, i) =>
    free[i] ? (HELD.free() ? Number(v.toFixed(3)) + 0 : toStep(v, step)) : 0,
  ) as Vector;
  const plain = raw.map((v, i) => (free[i] ? v : 0)) as Vector;
  const { by, catches } = loose
    ? { by: stepped, catches: [] }
    : catcher.caught(plain, free, Math.min(reach, step * 4));
  const final = by.map((v, i) => (v === plain[i] ? stepped[i] : v)) as Vector;
  const now = catcher.box.isEmpty()
    ? null
    : catcher.box.getCenter(new THREE.Vector3()).add(new THREE.Vector3(...final));
  const said = [
    `moved ${final.map((v) => short(v, 2)).join(', ')} mm`,
    now &&
      `middle at ${short(now.x, 2)}, ${short(now.y, 2)}, base at ${short(catcher.box.min.z + final[2], 2)}`,
  ];
  return { ...moved(ids, final), said: said.filter(Boolean).join(' · '), catches };
}

/** The nearest part under the pointer. */
export function firstHit(
  ray: THREE.Raycaster,
  scene: THREE.Scene,
): { id: string; point: THREE.Vector3 } | null {
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
