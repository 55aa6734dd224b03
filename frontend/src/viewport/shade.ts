/** How near everything that a camera sees is to something else, as a shade that is laid over it. */
import * as THREE from 'three';
import { GTAOPass } from 'three/addons/postprocessing/GTAOPass.js';
import { passed } from './passed';

/** Of how far the floor goes out: as far as a thing darkens what is by it. */
const NEAR = 0.09;
/** How dark it gets, of black. */
const DEEPEST = 0.9;
/** Pixels of the view to one of the shade, along a side. */
const COARSE = 2;
/** mm. */
const BEYOND_CUT = 0.01;
/** What darkens and is darkened: all that receives shadows. */
const SOLID = 1;
/** Laid over after everything solid, before what is seen through. */
const OVER_SOLID = -1;

/** reach: how far the floor goes out, mm. planes: what lies before them is not seen. */
type Seen = { reach: number; planes: THREE.Plane[] };

const shades = new WeakMap<THREE.Scene, Shade>();
export const shadeOf = (scene: THREE.Scene): Shade | undefined => shades.get(scene);

export class Shade {
  /** Lies over all that is solid while it is visible. */
  readonly over: THREE.Mesh;
  private readonly pass: GTAOPass;
  private readonly eye: THREE.Camera;
  private ready = false;
  private seen: Seen = { reach: 0, planes: [] };
  private known = '';

  /** camera: one of its kind is what it is worked out for. */
  constructor(
    private readonly scene: THREE.Scene,
    private readonly camera: THREE.Camera,
  ) {
    this.eye = camera.clone();
    this.pass = new GTAOPass(scene, this.eye);
    this.pass.output = GTAOPass.OUTPUT.Off;
    this.pass.updateGtaoMaterial({ distanceExponent: 1.5, samples: 12 });
    this.pass.updatePdMaterial({ radius: 12, samples: 16 });
    this.over = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), overlay(this.pass.gtaoMap));
    this.over.frustumCulled = false;
    this.over.raycast = passed;
    this.over.renderOrder = OVER_SOLID;
    this.over.visible = false;
    shades.set(scene, this);
  }

  /** Has its shaders compiled aside: until then there is none. */
  async prepare(gl: THREE.WebGLRenderer) {
    const { pass, over } = this;
    const things = new THREE.Scene();
    for (const material of [pass.normalMaterial, pass.gtaoMaterial, pass.pdMaterial])
      things.add(new THREE.Mesh(over.geometry, material));
    gl.setRenderTarget(pass.pdRenderTarget);
    const compiled = gl.compileAsync(things, this.eye);
    gl.setRenderTarget(null);
    await compiled;
    this.ready = true;
    this.known = '';
  }

  /** Whether it has to be worked out anew for what is seen now; where it has, it is gone until it is. */
  look(gl: THREE.WebGLRenderer, seen: Seen): boolean {
    if (!this.ready) return false;
    this.seen = seen;
    const { x, y } = gl.getDrawingBufferSize(new THREE.Vector2());
    const { matrixWorld, projectionMatrix } = this.camera;
    const cuts = seen.planes.flatMap(({ normal, constant }) => [...normal.toArray(), constant]);
    const now = [...matrixWorld.elements, ...projectionMatrix.elements, ...cuts, seen.reach, x, y].join();
    // What casts shadows casts shade: when those are drawn anew, something else stands there.
    const stale = gl.shadowMap.needsUpdate || now !== this.known;
    this.known = now;
    if (stale) this.over.visible = false;
    return stale;
  }

  /** For what that camera sees of the scene on the paper that the renderer has now. */
  work(gl: THREE.WebGLRenderer, camera: THREE.Camera) {
    if (!this.ready) return;
    const { pass, scene, eye, over, seen } = this;
    scene.traverse((thing) => {
      if (thing.receiveShadow) thing.layers.enable(SOLID);
      else thing.layers.disable(SOLID);
    });
    eye.copy(camera, false);
    eye.layers.set(SOLID);
    const paper = gl.getDrawingBufferSize(new THREE.Vector2());
    pass.setSize(Math.ceil(paper.x / COARSE), Math.ceil(paper.y / COARSE));
    const radius = NEAR * seen.reach;
    pass.updateGtaoMaterial({ radius, thickness: radius });
    // The cut face lies in the plane itself.
    pass.normalMaterial.clippingPlanes = seen.planes.map(
      ({ normal, constant }) => new THREE.Plane(normal, constant + BEYOND_CUT),
    );
    pass.normalMaterial.side = seen.planes.length ? THREE.DoubleSide : THREE.FrontSide;
    pass.render(gl, pass.pdRenderTarget, pass.gtaoRenderTarget, 0, false);
    gl.setRenderTarget(null);
    over.visible = true;
  }

  /** What was worked out for another camera is no use to the view. */
  forget() {
    this.over.visible = false;
    this.known = '';
  }

  dispose() {
    if (shades.get(this.scene) === this) shades.delete(this.scene);
    this.pass.dispose();
    this.over.geometry.dispose();
    (this.over.material as THREE.Material).dispose();
  }
}

/** All over the view, multiplying what is there. */
const overlay = (shade: THREE.Texture) =>
  new THREE.ShaderMaterial({
    uniforms: { shade: { value: shade }, deepest: { value: DEEPEST } },
    vertexShader: 'varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
    fragmentShader: `uniform sampler2D shade; uniform float deepest; varying vec2 at;
      void main() { gl_FragColor = vec4(vec3(1.0 - deepest * (1.0 - texture2D(shade, at).r)), 1.0); }`,
    transparent: true,
    depthTest: false,
    depthWrite: false,
    blending: THREE.CustomBlending,
    blendSrc: THREE.DstColorFactor,
    blendDst: THREE.ZeroFactor,
    blendSrcAlpha: THREE.ZeroFactor,
    blendDstAlpha: THREE.OneFactor,
  });
