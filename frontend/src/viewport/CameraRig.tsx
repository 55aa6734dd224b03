/** The camera: orbit, pan and zoom, perspective or parallel, turning to a side, framing a box. */
import { CameraControls, OrthographicCamera, PerspectiveCamera } from '@react-three/drei';
import { useThree } from '@react-three/fiber';
import { useCallback, useEffect, useRef } from 'react';
import * as THREE from 'three';
import type { Projection } from '../controls/editor';
import { roomOf } from './room';

export type ViewSide = 'front' | 'back' | 'left' | 'right' | 'top' | 'under';

/** What the rest of the page can ask of the camera. */
export type Rig = {
  look: (side: ViewSide) => void;
  /** outward: a unit vector; where that looks away from the camera, the camera goes round to see that side. */
  frame: (box: THREE.Box3, smoothly?: boolean, outward?: THREE.Vector3) => void;
  /** Around what is looked at, degrees: to the left, and up over it. */
  turn: (left: number, up: number) => void;
  /** To where the eye stood before it was last sent somewhere or moved by hand. */
  back: () => void;
  hold: (still: boolean) => void;
  /** The way the camera looks, a unit vector. */
  direction: () => THREE.Vector3;
  /** Whether it still sees what it was set to see: no hand has moved it since. */
  untouched: () => boolean;
};

export const FOV = 30;
/** mm: how far the camera sees; on a large wheel farther. */
const FAR = 20_000;
const OURS = 'sight';
/** Cosines: a side that faces the camera less is hard to see; and how much it faces the camera once that has gone round. */
const FACING = 0.3;
const TURNED = 0.75;
export const HOME = new THREE.Vector3(0.5, -1, 0.48).normalize();
const FROM: Record<ViewSide, [number, number, number]> = {
  front: [0, -1, 0],
  back: [0, 1, 0],
  left: [-1, 0, 0],
  right: [1, 0, 0],
  top: [0, -0.0001, 1],
  under: [0, -0.0001, -1],
};

/** Poses that the eye can go back to. */
const MOST_BEFORE = 30;
/** Degrees off the top and bottom that tilting stops at: beyond, left and right would change places. */
const STEEP = 0.5;

/** Half of what the view takes in from top to bottom, for each mm of distance. */
const TALL = Math.tan((FOV * Math.PI) / 360);

/** reach: how far what stands on the wheel goes out from its middle, mm. */
type Props = { projection: Projection; reach: number; ready: (rig: Rig) => void };

export function CameraRig({ projection, reach, ready }: Props) {
  const controls = useRef<CameraControls>(null);
  const camera = useThree((s) => s.camera);
  const size = useThree((s) => s.size);
  const canvas = useThree((s) => s.gl.domElement);
  const invalidate = useThree((s) => s.invalidate);
  const kept = useRef({ from: HOME.clone().multiplyScalar(260), to: new THREE.Vector3(0, 0, 20) });

  /** What the camera was last set to see whole, until a hand moves it: a view of another size is framed anew. */
  const framed = useRef<THREE.Box3 | null>(null);

  const remember = useCallback(() => {
    const now = controls.current;
    if (!now) return;
    now.getPosition(kept.current.from);
    now.getTarget(kept.current.to);
  }, []);

  const moved = useCallback(() => {
    framed.current = null;
    remember();
  }, [remember]);

  /** Where the eye stood, the latest last. */
  const before = useRef<{ from: THREE.Vector3; to: THREE.Vector3 }[]>([]);
  const leave = useCallback(() => {
    remember();
    const { from, to } = kept.current;
    const last = before.current.at(-1);
    if (last?.from.equals(from) && last.to.equals(to)) return;
    before.current = [...before.current, { from: from.clone(), to: to.clone() }].slice(-MOST_BEFORE);
  }, [remember]);

  const stand = useCallback(
    (from: THREE.Vector3, to: THREE.Vector3, eased: boolean) => {
      const now = controls.current;
      if (!now) return;
      const smoothly = eased && !jumps();
      kept.current = { from: from.clone(), to: to.clone() };
      void now.setLookAt(from.x, from.y, from.z, to.x, to.y, to.z, smoothly);
      if (now.camera instanceof THREE.OrthographicCamera)
        void now.zoomTo(zoomAt(from.distanceTo(to), size.height), smoothly);
      invalidate();
    },
    [size.height, invalidate],
  );

  const see = useCallback(
    (box: THREE.Box3, back: THREE.Vector3, smoothly: boolean) => {
      framed.current = box.clone();
      const { top, bottom } = roomOf(canvas);
      const free = Math.max(1, size.height - top - bottom);
      // As far back as a view of only the free height would be, and then so much farther as the whole view is higher.
      const far = distanceFor(box, back, size.width / free) * (size.height / free);
      const up = upOf(back).multiplyScalar(((top - bottom) / size.height) * far * TALL);
      const middle = box.getCenter(new THREE.Vector3()).add(up);
      stand(middle.clone().addScaledVector(back, far), middle, smoothly);
    },
    [size, canvas, stand],
  );

  // A new camera begins where the one before it stood; only then can the page reach the camera.
  useEffect(() => {
    const now = controls.current;
    if (!now || camera.name !== OURS) return;
    camera.up.set(0, 0, 1);
    now.updateCameraUp();
    now.smoothTime = jumps() ? 0 : 0.18;
    now.draggingSmoothTime = jumps() ? 0 : 0.06;
    const { from, to } = kept.current;
    if (framed.current) see(framed.current, from.clone().sub(to).normalize(), false);
    else stand(from, to, false);
    ready({
      untouched: () => framed.current !== null,
      hold: (still) => {
        if (controls.current) controls.current.enabled = !still;
      },
      direction: () => {
        remember();
        return kept.current.to.clone().sub(kept.current.from).normalize();
      },
      turn: (left, up) => {
        leave();
        moved();
        const { from, to } = kept.current;
        const at = new THREE.Spherical().setFromVector3(ZUP.apply(from.clone().sub(to)));
        at.theta -= (left * Math.PI) / 180;
        const steep = (STEEP * Math.PI) / 180;
        at.phi = Math.min(Math.PI - steep, Math.max(steep, at.phi - (up * Math.PI) / 180));
        stand(to.clone().add(ZUP.undo(new THREE.Vector3().setFromSpherical(at))), to, true);
      },
      back: () => {
        remember();
        let last = before.current.pop();
        while (last?.from.equals(kept.current.from) && last.to.equals(kept.current.to))
          last = before.current.pop();
        if (!last) return;
        framed.current = null;
        stand(last.from, last.to, true);
      },
      look: (side) => {
        leave();
        moved();
        const distance = kept.current.from.distanceTo(kept.current.to);
        const from = kept.current.to.clone().add(new THREE.Vector3(...FROM[side]).multiplyScalar(distance));
        stand(from, kept.current.to, true);
      },
      frame: (box, smoothly = true, outward) => {
        if (box.isEmpty()) return;
        if (smoothly) leave();
        remember();
        const back = kept.current.from.clone().sub(kept.current.to).normalize();
        if (outward && back.dot(outward) < FACING) {
          back.addScaledVector(outward, -back.dot(outward)).setLength(Math.sqrt(1 - TURNED ** 2));
          back.addScaledVector(outward, TURNED).normalize();
        }
        see(box, back, smoothly);
      },
    });
  }, [camera, ready, remember, leave, moved, stand, see]);

  const far = Math.max(FAR, 30 * reach);
  return (
    <>
      {projection === 'perspective' ? (
        <PerspectiveCamera name={OURS} makeDefault fov={FOV} near={far / FAR} far={far} up={[0, 0, 1]} />
      ) : (
        <OrthographicCamera name={OURS} makeDefault near={-far / 4} far={far} up={[0, 0, 1]} />
      )}
      <CameraControls
        ref={controls}
        makeDefault
        minDistance={4}
        maxDistance={0.4 * far}
        dollyToCursor
        onControlStart={leave}
        onControl={moved}
      />
    </>
  );
}

/** Spherical coordinates of three.js are about y; the wheel's axis is z. */
const ZUP = {
  apply: ({ x, y, z }: THREE.Vector3) => new THREE.Vector3(x, z, -y),
  undo: ({ x, y, z }: THREE.Vector3) => new THREE.Vector3(x, -z, y),
};

/** Whether the maker's system asks for no more motion than need be: then the camera stands at once where it goes. */
const jumps = (): boolean => matchMedia('(prefers-reduced-motion: reduce)').matches;

/** The parallel camera's zoom that shows things as large as the perspective one does from `distance`. */
const zoomAt = (distance: number, height: number): number => height / (2 * distance * TALL);

/** What is up in the view of a camera that looks against `back`. */
function upOf(back: THREE.Vector3): THREE.Vector3 {
  const right = new THREE.Vector3(0, 0, 1).cross(back);
  if (right.lengthSq() < 1e-6) right.set(1, 0, 0);
  return back.clone().cross(right.normalize());
}

/** How far back along `back` the whole box is in sight, with a little room around. */
export function distanceFor(box: THREE.Box3, back: THREE.Vector3, aspect: number): number {
  const middle = box.getCenter(new THREE.Vector3());
  const up = upOf(back);
  const right = up.clone().cross(back);
  let found = 6;
  for (let i = 0; i < 8; i++) {
    const corner = new THREE.Vector3(
      i & 1 ? box.max.x : box.min.x,
      i & 2 ? box.max.y : box.min.y,
      i & 4 ? box.max.z : box.min.z,
    ).sub(middle);
    const near = corner.dot(back);
    found = Math.max(
      found,
      near + Math.abs(corner.dot(up)) / TALL,
      near + Math.abs(corner.dot(right)) / (TALL * aspect),
    );
  }
  return found * 1.02;
}
