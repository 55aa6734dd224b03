/** From a point of the page into the view. */
import * as THREE from 'three';
import type { Floor, Vector } from '../controls/editor';
import { drawnAt } from './clip';
import type { Pickable } from './ResultMesh';

/** The ray from the camera through a point of the page. */
export function pointerRay(
  camera: THREE.Camera,
  canvas: HTMLCanvasElement,
  x: number,
  y: number,
): THREE.Raycaster {
  const box = canvas.getBoundingClientRect();
  const ray = new THREE.Raycaster();
  ray.setFromCamera(
    new THREE.Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2),
    camera,
  );
  return ray;
}

/** The ray as numbers for the server; its beginning lies before all that is in sight. */
export function rayNumbers(ray: THREE.Raycaster): { eye: Vector; direction: Vector } {
  return { eye: ray.ray.origin.toArray(), direction: ray.ray.direction.toArray() };
}

/** How many mm one pixel is at a point of the wheel. */
export function mmPerPixel(
  camera: THREE.Camera,
  canvas: { clientHeight: number },
  at: THREE.Vector3,
): number {
  if (camera instanceof THREE.PerspectiveCamera) {
    const away = at.clone().sub(camera.position).dot(camera.getWorldDirection(new THREE.Vector3()));
    return (2 * Math.tan((camera.fov * Math.PI) / 360) * Math.max(away, 1)) / canvas.clientHeight;
  }
  return camera instanceof THREE.OrthographicCamera
    ? (camera.top - camera.bottom) / camera.zoom / canvas.clientHeight
    : 1;
}

/** Where along a line (through `at`, along the unit vector `axis`) a ray passes nearest, mm from `at`. */
export function alongAxis(ray: THREE.Ray, at: THREE.Vector3, axis: THREE.Vector3): number | null {
  const w = at.clone().sub(ray.origin);
  const b = axis.dot(ray.direction);
  const rest = 1 - b * b;
  if (rest < 1e-4) return null; // looked at end on
  return (b * w.dot(ray.direction) - w.dot(axis)) / rest;
}

/** Where on the floor a point of the page is, in whole mm; on the wheel, or on the face worked on. */
export function floorPoint(
  camera: THREE.Camera,
  canvas: HTMLCanvasElement,
  x: number,
  y: number,
  floor: Floor | null,
): Vector | null {
  const box = canvas.getBoundingClientRect();
  if (x < box.left || x > box.right || y < box.top || y > box.bottom) return null;
  const normal = new THREE.Vector3(...(floor?.normal ?? [0, 0, 1]));
  const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(
    normal,
    new THREE.Vector3(...(floor?.point ?? [0, 0, 0])),
  );
  const at = pointerRay(camera, canvas, x, y).ray.intersectPlane(plane, new THREE.Vector3());
  if (!at || at.length() > 5000) return null;
  return floor ? at.toArray() : [Math.round(at.x), Math.round(at.y), 0];
}

/** The nearest part under the pointer. */
export function firstHit(
  ray: THREE.Raycaster,
  scene: THREE.Scene,
): { id: string; point: THREE.Vector3 } | null {
  for (const hit of ray.intersectObjects(scene.children, true)) {
    const tag = hit.object.userData as Partial<Pickable>;
    if (!drawnAt(tag.clip, hit.point)) continue;
    const id = hit.faceIndex != null ? tag.partAt?.(hit.faceIndex) : undefined;
    if (id) return { id, point: hit.point.clone() };
  }
  return null;
}
