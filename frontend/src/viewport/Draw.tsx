/**
 * Draws each frame that is asked for; what is new in it is compiled first, and the frame before stays until that is done:
 * a shader that is drawn with at once holds up the page until the graphics card has it.
 */
import { useFrame } from '@react-three/fiber';
import { useRef } from 'react';
import type * as THREE from 'three';
import { finished } from './pixels';

/** Beyond the frame's other work; from 1 on nothing else draws. */
const DRAW = 1;
/** So many new things are compiled one by one, more of them with all that is there. */
const FEW = 8;

export function Draw() {
  const known = useRef(new WeakSet<THREE.Material>());
  const compiling = useRef(false);
  useFrame(({ gl, scene, camera, invalidate }) => {
    if (compiling.current) return;
    const found = newThings(scene, known.current);
    const programs = gl.info.programs?.length ?? 0;
    if (found.length > FEW) gl.compile(scene, camera);
    else for (const thing of found) gl.compile(thing, camera, scene);
    if ((gl.info.programs?.length ?? 0) === programs) {
      gl.render(scene, camera);
      return;
    }
    compiling.current = true;
    gl.domElement.dataset.compiling = 'true'; // for tests: more is to come
    compiled(gl).then(() => {
      compiling.current = false;
      gl.domElement.dataset.compiling = 'false';
      invalidate();
    });
  }, DRAW);
  return null;
}

const LOOK_AGAIN_MS = 4;

/** What its types leave out. */
type Program = { isReady: () => boolean };

/** Until all that was sent is compiled: by a card that does so aside, too. */
async function compiled(gl: THREE.WebGLRenderer) {
  await finished(gl.getContext() as WebGL2RenderingContext);
  const waits = () => (gl.info.programs as Program[] | null)?.some((program) => !program.isReady());
  while (waits()) await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
}

/** What is drawn with a material that was not seen before. */
function newThings(scene: THREE.Scene, known: WeakSet<THREE.Material>): THREE.Object3D[] {
  const found: THREE.Object3D[] = [];
  scene.traverseVisible((thing) => {
    const { material } = thing as THREE.Mesh;
    if (!material || Array.isArray(material) || known.has(material)) return;
    known.add(material);
    found.push(thing);
  });
  return found;
}
