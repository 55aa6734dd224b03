/**
 * Contact shade: what lies deep in a crease, or close over something else, is darker. Worked out from what the camera sees,
 * anew only where that has changed: in every frame where the machine is quick enough, else once the view rests.
 */
import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef, useState } from 'react';
import { usePreferences } from '../api/preferences';
import { useEditor } from '../controls/editor';
import { isSoftware } from './pace';
import { finished } from './pixels';
import { useSectionPlanes } from './section';
import { Shade } from './shade';

/** ms that nothing changes before a slow machine works it out; and what a frame with it takes at most on a quick one. */
const REST = 300;
const QUICK = 28;
/** Before a frame is drawn: when it is known how coarse everything is (`useCoarser`). */
const AFTER_COARSER = -0.3;

/** reach: how far the floor goes out from its middle, mm. */
export function ContactShade({ reach }: { reach: number }) {
  const { gl, scene, camera, invalidate } = useThree();
  const context = gl.getContext() as WebGL2RenderingContext;
  const [software] = useState(() => isSoftware(context));
  const chosen = usePreferences().contact_shade;
  const form = useEditor((s) => s.surface === 'glazed' || s.surface === 'clay');
  const on = form && (chosen === 'always' || (chosen === 'quick' && !software));
  const planes = useSectionPlanes();
  const shade = useMemo(() => (on ? new Shade(scene, camera) : null), [on, scene, camera]);
  useEffect(() => {
    if (!shade) return;
    shade.over.onAfterRender = () => {
      gl.domElement.dataset.shaded = 'true'; // for tests and pictures, as everything that stands on the canvas
    };
    shade.prepare(gl).then(() => invalidate());
    return () => shade.dispose();
  }, [shade, gl, invalidate]);

  const quick = useRef(!software);
  const rest = useRef(0);
  const rested = useRef(false);
  useEffect(() => () => clearTimeout(rest.current), []);
  const work = (shade: Shade) => {
    const stale = shade.look(gl, { reach, planes });
    if (quick.current ? stale : !stale && rested.current && !shade.over.visible) {
      const begun = performance.now();
      shade.work(gl, camera);
      finished(context).then(() => {
        quick.current &&= performance.now() - begun < QUICK;
      });
    } else if (stale) {
      rested.current = false;
      clearTimeout(rest.current);
      rest.current = window.setTimeout(() => {
        rested.current = true;
        invalidate();
      }, REST);
    }
  };
  useFrame(() => {
    if (shade) work(shade);
    if (!shade?.over.visible) gl.domElement.dataset.shaded = 'false';
  }, AFTER_COARSER);

  return shade && <primitive object={shade.over} />;
}
