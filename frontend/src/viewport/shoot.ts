/** A picture of the view as it is drawn just now, of any size. */
import * as THREE from 'three';
import { shadeOf } from './shade';
import { whileWhole } from './useCoarser';
import { FLOOR } from './Wheel';

type Shown = { gl: THREE.WebGLRenderer; scene: THREE.Scene; camera: THREE.Camera };

export const LEAST_PX = 16;
export const MOST_PX = 8192;

/** floor: with the wheel; else on nothing, to be laid over anything. Null where the machine cannot draw so large. */
export async function shoot(
  { gl, scene, camera }: Shown,
  { width, height, floor }: { width: number; height: number; floor: boolean },
): Promise<Blob | null> {
  const size = gl.getSize(new THREE.Vector2());
  const ratio = gl.getPixelRatio();
  const wheel = scene.getObjectByName(FLOOR);
  const seen = wheel?.visible ?? false;
  const shade = shadeOf(scene);
  try {
    gl.setPixelRatio(1);
    gl.setSize(width, height, false);
    if (wheel) wheel.visible = floor && seen;
    const eye = shapedFor(camera, width / height, size.x / size.y);
    whileWhole(scene, () => {
      shade?.work(gl, eye);
      gl.render(scene, eye);
    });
    if (gl.getContext().drawingBufferWidth !== width) return null;
    // Taken in the same breath: what was drawn is not kept longer.
    return await new Promise<Blob | null>((resolve) => gl.domElement.toBlob(resolve, 'image/png'));
  } finally {
    if (wheel) wheel.visible = seen;
    gl.setPixelRatio(ratio);
    gl.setSize(size.x, size.y, false);
    shade?.forget();
    gl.render(scene, camera);
  }
}

/** A camera that sees in a picture of one shape all that the view, of another, has in its middle. */
function shapedFor(camera: THREE.Camera, aspect: number, was: number): THREE.Camera {
  const found = camera.clone();
  const wider = Math.max(1, was / aspect);
  if (found instanceof THREE.PerspectiveCamera) {
    found.aspect = aspect;
    found.fov = (2 * Math.atan(Math.tan((found.fov * Math.PI) / 360) * wider) * 180) / Math.PI;
    found.updateProjectionMatrix();
  } else if (found instanceof THREE.OrthographicCamera) {
    const half = ((found.top - found.bottom) / 2) * wider;
    Object.assign(found, { top: half, bottom: -half, left: -half * aspect, right: half * aspect });
    found.updateProjectionMatrix();
  }
  return found;
}
