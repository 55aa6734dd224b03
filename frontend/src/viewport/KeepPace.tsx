/** Watches how long frames take while the view moves; what is too slow is drawn coarser until it rests. */
import { addAfterEffect, useFrame, useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import * as THREE from 'three';
import { useEditor } from '../controls/editor';
import { isSoftware, Pace, shareOf, usePace } from './pace';
import { drawsTheView, finished } from './pixels';

/** ms after the last movement that the view rests. */
const REST = 250;
/** Before a frame is drawn: the camera first, then this, then what is drawn coarser. */
const AFTER_CAMERA = -0.9;

export function KeepPace() {
  const { gl, camera, invalidate } = useThree();
  const last = useRef({ at: new THREE.Matrix4(), zoom: 0 });
  const rest = useRef(0);
  const begun = useRef(0);

  useFrame(() => {
    begun.current = performance.now();
    const { at, zoom } = last.current;
    camera.updateMatrixWorld();
    const still = at.equals(camera.matrixWorld) && zoom === camera.zoom;
    at.copy(camera.matrixWorld);
    last.current.zoom = camera.zoom;
    if (still && useEditor.getState().drag === null) return;
    if (!usePace.getState().moving) usePace.setState({ moving: true });
    clearTimeout(rest.current);
    rest.current = window.setTimeout(() => {
      usePace.setState({ moving: false });
      invalidate();
    }, REST);
  }, AFTER_CAMERA);

  useEffect(() => {
    const context = gl.getContext() as WebGL2RenderingContext;
    const pace = new Pace(isSoftware(context));
    usePace.setState({ budget: pace.budget });
    drawsTheView(context);
    let waiting = false;
    let ready = '';
    let frames = 0;
    return addAfterEffect(() => {
      const { render, memory, programs } = gl.info;
      const drawn = render.triangles;
      const state = usePace.getState();
      gl.domElement.dataset.coarser = String(state.moving && shareOf(state) < 1);
      // The first frame with anything new is no measure: that is made ready in it.
      const now = `${programs?.length} ${memory.geometries} ${render.calls}`;
      const first = now !== ready;
      ready = now;
      // Nor is one in which contact shade was worked out too.
      const more = render.frame - frames > 1;
      frames = render.frame;
      if (first || more || waiting) return;
      waiting = true;
      finished(context).then(() => {
        waiting = false;
        pace.note(performance.now() - begun.current, drawn);
        if (pace.budget !== usePace.getState().budget) usePace.setState({ budget: pace.budget });
      });
    });
  }, [gl]);
  useEffect(
    () => () => {
      clearTimeout(rest.current);
      usePace.setState({ moving: false }); // nothing moves where there is no view
    },
    [],
  );
  return null;
}
