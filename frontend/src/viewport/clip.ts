/** Drawing only one side of a box: of a skin what lies outside, of a patch what lies inside. */
import * as THREE from 'three';

type Corner = [number, number, number];
export type BoxCorners = [Corner, Corner];

/** What of a mesh is drawn. planes: of what lies inside; what lies outside is told by the box. */
export type Clip = { box: THREE.Box3; side: 'inside' | 'outside'; planes: THREE.Plane[] };

export function clipTo(corners: BoxCorners, side: Clip['side']): Clip {
  const [low, high] = corners.map((c) => new THREE.Vector3(...c)) as [THREE.Vector3, THREE.Vector3];
  const axes = [new THREE.Vector3(1, 0, 0), new THREE.Vector3(0, 1, 0), new THREE.Vector3(0, 0, 1)];
  const planes = axes.flatMap((axis) => [
    new THREE.Plane().setFromNormalAndCoplanarPoint(axis.clone(), low),
    new THREE.Plane().setFromNormalAndCoplanarPoint(axis.clone().negate(), high),
  ]);
  return { box: new THREE.Box3(low, high), side, planes: side === 'inside' ? planes : [] };
}

const DECLARED = 'varying vec3 vPlace;';
const HIDDEN = 'if (all(greaterThan(vPlace, hiddenLow)) && all(lessThan(vPlace, hiddenHigh))) discard;';

/**
 * For a material, together with any planes: what of it lies inside the box of `clip` is not drawn, where that is what the
 * clip says. One object for the life of the material; its box may change.
 */
export function hiding() {
  const uniforms = { hiddenLow: { value: new THREE.Vector3() }, hiddenHigh: { value: new THREE.Vector3() } };
  return {
    put: (clip: Clip | undefined) => {
      const box = clip?.side === 'outside' ? clip.box : new THREE.Box3();
      uniforms.hiddenLow.value.copy(box.min);
      uniforms.hiddenHigh.value.copy(box.max);
    },
    onBeforeCompile: (shader: THREE.WebGLProgramParametersWithUniforms) => {
      Object.assign(shader.uniforms, uniforms);
      shader.vertexShader = `${DECLARED}\n${shader.vertexShader}`.replace(
        '#include <project_vertex>',
        '#include <project_vertex>\nvPlace = (modelMatrix * vec4(transformed, 1.0)).xyz;',
      );
      shader.fragmentShader = shader.fragmentShader.replace(
        'void main() {',
        `${DECLARED}\nuniform vec3 hiddenLow;\nuniform vec3 hiddenHigh;\nvoid main() {\n${HIDDEN}`,
      );
    },
    customProgramCacheKey: () => 'hiding a box',
  };
}

/** Whether a point is where the clipped mesh is drawn. */
export const drawnAt = (clip: Clip | undefined, point: THREE.Vector3): boolean =>
  !clip || clip.box.containsPoint(point) === (clip.side === 'inside');
