/** Bands over a surface as a lamp of stripes would throw them: where they break or bend, so does the surface. */
import type * as THREE from 'three';

const BANDS = 7;

const PAINT = `
  vec3 thrown = reflect(-normalize(vViewPosition), normal);
  float around = asin(clamp(thrown.y, -1.0, 1.0)) / 3.14159265 + 0.5;
  float across = abs(fract(${BANDS.toFixed(1)} * around) - 0.5) * 2.0;
  float soft = clamp(fwidth(${(2 * BANDS).toFixed(1)} * around), 0.02, 0.5);
  outgoingLight = mix(vec3(0.13, 0.2, 0.19), vec3(0.93, 0.91, 0.86), smoothstep(0.5 - soft, 0.5 + soft, across));
`;

/** Into the shader of a standard material. */
export function paintBands(shader: THREE.WebGLProgramParametersWithUniforms) {
  shader.fragmentShader = shader.fragmentShader.replace(
    '#include <opaque_fragment>',
    `${PAINT}\n#include <opaque_fragment>`,
  );
}
