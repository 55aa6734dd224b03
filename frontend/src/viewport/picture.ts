/** Small pictures of a piece for its card, drawn aside from the view. */
import * as THREE from 'three';
import type { Scene } from '../api/client';
import type { Known } from '../controls/tree';
import { INK } from '../theme/ink';
import { shaping } from './aside/workers';
import { distanceFor, FOV, HOME } from './CameraRig';
import { cornerColours } from './glazes';
import { type Drawable, loadMesh, matrixOf } from './meshes';
import { atRest } from './pace';
import { finished, pngOf, viewDrawn } from './pixels';

const WIDTH = 480;
const HEIGHT = 300;
let renderer: THREE.WebGLRenderer | null = null;
// Kept, so that their shaders are compiled once.
const CLAY_SKIN = new THREE.MeshStandardMaterial({ vertexColors: true, roughness: 0.72 });
const FLOOR = new THREE.MeshLambertMaterial({ color: INK.floor });

/** A PNG of the result from the front right, or null for a piece of nothing. */
export async function takePicture(scene: Scene, known: Map<string, Known>): Promise<Blob | null> {
  const bodies = await bodiesOf(scene, known);
  const box = bodies.reduce((all, body) => all.expandByObject(body), new THREE.Box3());
  if (box.isEmpty()) return null;
  await atRest();
  if (!renderer) await viewDrawn();
  renderer ??= new THREE.WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
  renderer.debug.checkShaderErrors = false;
  renderer.setSize(WIDTH, HEIGHT, false);
  renderer.shadowMap.enabled = true;
  renderer.shadowMap.type = THREE.PCFShadowMap;
  renderer.toneMapping = THREE.NoToneMapping;
  const ball = box.getBoundingSphere(new THREE.Sphere());
  const stage = new THREE.Scene();
  const floor = new THREE.Mesh(new THREE.CircleGeometry(ball.radius * 1.5, 96), FLOOR);
  floor.receiveShadow = true;
  floor.position.set(ball.center.x, ball.center.y, Math.min(0, box.min.z) - 0.05);
  const sun = new THREE.DirectionalLight(INK.light, 1.9);
  sun.position.copy(ball.center).add(new THREE.Vector3(-0.9, -1.1, 2.1).multiplyScalar(ball.radius * 1.5));
  sun.target.position.copy(ball.center);
  sun.castShadow = true;
  sun.shadow.mapSize.set(1024, 1024);
  sun.shadow.normalBias = 0.25;
  Object.assign(sun.shadow.camera, {
    left: -ball.radius * 1.6,
    right: ball.radius * 1.6,
    top: ball.radius * 1.6,
    bottom: -ball.radius * 1.6,
    near: 0.1,
    far: ball.radius * 10,
  });
  stage.add(...bodies, floor, sun, sun.target, new THREE.HemisphereLight(INK.sky, INK.bounce, 1.75));
  const camera = new THREE.PerspectiveCamera(FOV, WIDTH / HEIGHT, 0.1, ball.radius * 30);
  camera.up.set(0, 0, 1);
  camera.position.copy(ball.center).addScaledVector(HOME, distanceFor(box, HOME, WIDTH / HEIGHT));
  camera.lookAt(ball.center);
  const gl = renderer.getContext() as WebGL2RenderingContext;
  await renderer.compileAsync(stage, camera);
  await finished(gl); // what is sent while the view is being drawn holds up the page until it is
  await atRest();
  await viewDrawn();
  renderer.render(stage, camera);
  const picture = await pngOf(gl);
  for (const thing of [...bodies, floor]) thing.geometry.dispose();
  sun.shadow.map?.dispose();
  return picture;
}

/** The joined skin, and the meshes that are left out of it. */
async function bodiesOf(scene: Scene, known: Map<string, Known>): Promise<THREE.Mesh[]> {
  const found: THREE.Mesh[] = [];
  if (scene.result?.triangles) {
    const colours = scene.result.parts.map((id) => new THREE.Color(known.get(id)?.colour ?? INK.clay));
    found.push(await painted(await loadMesh(scene.result.key), colours));
  }
  const leftOut = new Set(scene.soundness?.left_out.map((l) => l.part));
  for (const view of scene.parts.filter((v) => v.key && leftOut.has(v.id))) {
    const mesh = await loadMesh(view.key as string);
    const colour = new THREE.Color(known.get(view.id)?.colour ?? INK.clay);
    for (const rows of view.matrices) {
      const body = await painted(mesh, [], colour);
      body.geometry.applyMatrix4(matrixOf(rows));
      found.push(body);
    }
  }
  return found;
}

/** More triangles are fewer than a pixel each: they are thinned out before, so that the page is not held up. */
const MOST_PICTURED = 150_000;

async function painted(
  { geometry, partOf }: Drawable,
  colours: THREE.Color[],
  otherwise = new THREE.Color(INK.clay),
): Promise<THREE.Mesh> {
  const found = geometry.clone();
  const share = MOST_PICTURED / ((geometry.index?.count ?? 0) / 3);
  if (share < 1) {
    const [position, index] = [geometry.getAttribute('position').array, geometry.index?.array];
    const thin = await shaping.roughly(position as Float32Array, index as Uint32Array, share);
    found.setIndex(new THREE.BufferAttribute(thin, 1));
  }
  const paint = cornerColours(partOf, colours, otherwise);
  found.setAttribute('color', new THREE.BufferAttribute(paint, 3));
  const body = new THREE.Mesh(found, CLAY_SKIN);
  body.castShadow = body.receiveShadow = true;
  return body;
}
