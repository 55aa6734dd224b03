/** Shadows are drawn anew only when what casts them has changed, not when the camera moves. */
import { useThree } from '@react-three/fiber';
import { useEffect } from 'react';

export function useShadows() {
  const gl = useThree((s) => s.gl);
  useEffect(() => {
    gl.shadowMap.needsUpdate = true;
  });
}
