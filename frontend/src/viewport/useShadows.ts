/** Shadows are drawn anew only when what casts them has changed, not when the camera moves. */
import { useThree } from '@react-three/fiber';
import { useLayoutEffect } from 'react';

/** casts: what they depend on, as many things each time. */
export function useShadows(...casts: unknown[]) {
  const gl = useThree((s) => s.gl);
  useLayoutEffect(() => {
    gl.shadowMap.needsUpdate = true;
    return () => {
      gl.shadowMap.needsUpdate = true;
    };
  }, [gl, ...casts]);
}
