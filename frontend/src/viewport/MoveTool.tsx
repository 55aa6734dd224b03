/** The pointer in the view: a click picks, a drag on a chosen part moves it over the floor, anything else turns the camera. */
import { useThree } from '@react-three/fiber';
import * as THREE from 'three';
import { type Floor, useEditor } from '../controls/editor';
import { idsHeld, type Known, parentsOf } from '../controls/tree';
import { outermost } from './carry';
import { type DragContext, moveDrag, snapReach } from './dragContext';
import { firstHit } from './pointer';
import { Snapper } from './snapping';
import { usePointer } from './usePointer';

/** What the pointer went down on: which part, and, where that may be dragged, from which point over which plane. */
type Press = {
  id: string | null;
  from: THREE.Vector3 | null;
  plane: THREE.Plane;
  ids: string[];
  snapper: Snapper | null;
};

export function MoveTool({ context }: { context: DragContext }) {
  const { gl, get } = useThree();
  const { known, view, scene } = context;

  usePointer<Press>(true, {
    down: ({ ray }) => {
      const { chosen, floor, look } = useEditor.getState();
      const hit = firstHit(ray, get().scene);
      const locked = chosen.some((id) => known.get(id)?.part.locked);
      const mine = hit !== null && !locked && look !== 'apart' && idsHeld(known, chosen).has(hit.id);
      if (mine) view.rig?.hold(true);
      return {
        id: hit?.id ?? null,
        from: mine ? hit.point : null,
        plane: mine ? dragPlane(get().camera, hit.point, floor) : new THREE.Plane(),
        ids: mine ? outermost(known, chosen) : [],
        snapper: null,
      };
    },
    drag: (press, { ray }) => {
      const now = press.from && ray.ray.intersectPlane(press.plane, new THREE.Vector3());
      if (!press.from || !now) return;
      press.snapper ??= new Snapper(scene, known, idsHeld(known, press.ids), press.ids);
      const raw = now.sub(press.from).toArray();
      const reach = snapReach(get().camera, gl.domElement, press.from);
      context.show(moveDrag(press.ids, raw, freeAxes(press.plane.normal), press.snapper, reach, context));
    },
    // A press on what is not in hand turns the camera: it is nobody's drag.
    drop: ({ from }) => from && context.letGo(),
    click: ({ id }, { event }) => pickAt(known, id, event.shiftKey || event.ctrlKey || event.metaKey),
    doubleClick: ({ ray }) => {
      const hit = firstHit(ray, get().scene);
      if (hit) goInto(known, hit.id);
    },
    released: () => view.rig?.hold(false),
    cancel: context.cancel,
  });
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
