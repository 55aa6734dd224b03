/** The view of a piece: the wheel, the light, the camera, and what stands on the wheel. */

import { addAfterEffect, Canvas, useThree } from '@react-three/fiber';
import { type ReactNode, useCallback, useEffect, useLayoutEffect, useMemo, useRef } from 'react';
import { createPortal } from 'react-dom';
import * as THREE from 'three';
import { create } from 'zustand';
import type { Scene } from '../api/client';
import { useEditor } from '../controls/editor';
import { INK } from '../theme/ink';
import { wholeBox } from './boxes';
import { CameraRig, type Rig } from './CameraRig';
import { ContactShade } from './ContactShade';
import { Draw } from './Draw';
import { KeepPace } from './KeepPace';
import { useShadows } from './useShadows';
import { Wheel, wheelRadius } from './Wheel';

THREE.Object3D.DEFAULT_UP.set(0, 0, 1);

/** Reaching into the view from outside: its camera rig, and where its floor is under a point of the page. */
export type ViewHandle = { rig: Rig | null; camera: THREE.Camera | null; canvas: HTMLCanvasElement | null };

type Props = {
  /** Whose piece it is: another one is framed anew. */
  piece: string;
  scene: Scene | null;
  handle: ViewHandle;
  onReady?: (rig: Rig) => void;
  /** What stands in the wheel's place, and how far it goes out from its middle, mm. */
  floor?: ReactNode;
  reach?: number;
  children: ReactNode;
};

/**
 * One canvas for all stages of a piece: it lies in an element of its own, which goes where the view of the stage is, so
 * that what is on the graphics card, and how the camera stands, outlives the way from one stage to the next.
 */
const host = document.createElement('div');
host.className = 'view-host';

const useShown = create<{ shown: Props | null }>(() => ({ shown: null }));

/** Where the view of a stage is, and what stands in it. */
export function View(props: Props) {
  const place = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    place.current?.append(host);
    return () => {
      host.remove();
      useShown.setState({ shown: null });
    };
  }, []);
  useLayoutEffect(() => useShown.setState({ shown: props }));
  return <div ref={place} className="view-place" />;
}

/** Keeps the canvas, beside all stages of a piece. */
export function ViewHost() {
  const last = useRef<Props | null>(null);
  const shown = useShown((s) => s.shown);
  // Between two stages it goes on with what it had.
  last.current = shown ?? last.current;
  return last.current && createPortal(<Room {...last.current} empty={shown === null} />, host);
}

const NOTHING_TO_DO = () => undefined;

function Room({
  piece,
  scene,
  handle,
  onReady = NOTHING_TO_DO,
  floor,
  reach,
  children,
  empty,
}: Props & { empty: boolean }) {
  const projection = useEditor((s) => s.projection);
  const wheel = useMemo(() => wheelRadius(cornersOf(scene)), [scene]);
  const radius = reach ?? wheel;
  /** In which view of which piece all was framed, or the camera left as a hand had put it. */
  const settled = useRef<{ piece: string; handle: ViewHandle } | null>(null);
  const latest = useRef(scene);
  latest.current = scene;
  // The same one from edit to edit: the camera is set up anew for another.
  const ready = useCallback(
    (rig: Rig) => {
      handle.rig = rig;
      onReady(rig);
      const before = settled.current;
      if (before?.piece === piece && before.handle === handle) return;
      settled.current = { piece, handle };
      if (before?.piece !== piece || rig.untouched()) rig.frame(wholeBox(latest.current), false);
    },
    [handle, onReady, piece],
  );
  return (
    <Canvas
      frameloop="demand"
      flat
      shadows={{ type: THREE.PCFShadowMap }}
      // Below 1 where the page is shown smaller than it is: no finer than can be seen.
      dpr={[0.25, 2]}
      gl={{ antialias: true, alpha: true, preserveDrawingBuffer: false }}
      onCreated={({ gl }) => {
        gl.shadowMap.autoUpdate = false;
        gl.debug.checkShaderErrors = false;
      }}
      tabIndex={-1}
      role="group"
      aria-label="View of the piece"
    >
      <Reach handle={handle} />
      <KeepPace />
      <Light reach={radius} />
      {floor ?? <Wheel radius={wheel} />}
      <CameraRig projection={projection} reach={radius} ready={ready} />
      {!empty && children}
      <ContactShade reach={radius} />
      <Draw />
    </Canvas>
  );
}

function Reach({ handle }: { handle: ViewHandle }) {
  const { camera, gl } = useThree();
  // Which frame was drawn last, where it shows what, and what it cost, stands on the canvas, for tests and benchmarks.
  const shaded = useShadowTriangles(gl);
  useEffect(
    () =>
      addAfterEffect(() => {
        gl.domElement.dataset.calls = String(gl.info.render.calls);
        gl.domElement.dataset.triangles = String(gl.info.render.triangles - shaded.current);
        gl.domElement.dataset.frame = String(gl.info.render.frame);
        gl.domElement.dataset.distance = camera.position.length().toFixed(0);
        const onto = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse);
        gl.domElement.dataset.onto = onto.elements.map((v) => v.toPrecision(8)).join(' ');
      }),
    [gl, camera, shaded],
  );
  useEffect(() => {
    handle.camera = camera;
    handle.canvas = gl.domElement;
  }, [handle, camera, gl]);
  return null;
}

/** How many of the triangles of the last frame were drawn for its shadows only. */
function useShadowTriangles(gl: THREE.WebGLRenderer) {
  const shaded = useRef(0);
  useEffect(() => {
    const { shadowMap, info } = gl;
    const draw = shadowMap.render;
    shadowMap.render = (...args) => {
      const before = info.render.triangles;
      draw.apply(shadowMap, args);
      shaded.current = info.render.triangles - before;
    };
    return () => {
      shadowMap.render = draw;
    };
  }, [gl]);
  return shaded;
}

/** A window to the upper left, its light returned by the floor. */
export function Light({ reach }: { reach: number }) {
  useShadows(reach);
  const side = useThree((s) => 2048 * Math.min(1, s.viewport.dpr ** 2));
  return (
    <>
      <hemisphereLight args={[INK.sky, INK.bounce, 1.75]} position={[0, 0, 1]} />
      <directionalLight
        position={[-reach * 0.9, -reach * 1.1, reach * 2.1]}
        intensity={1.9}
        color={INK.light}
        castShadow
        shadow-mapSize={[side, side]}
        shadow-bias={-0.0004}
        shadow-normalBias={0.25}
        shadow-radius={5}
        shadow-camera-left={-reach * 1.1}
        shadow-camera-right={reach * 1.1}
        shadow-camera-top={reach * 1.1}
        shadow-camera-bottom={-reach * 1.1}
        shadow-camera-near={1}
        shadow-camera-far={reach * 6}
      />
    </>
  );
}

function cornersOf(scene: Scene | null): number[][] {
  return (scene?.parts ?? []).flatMap((p) =>
    p.box
      ? [
          [p.box[0][0], p.box[0][1]],
          [p.box[1][0], p.box[1][1]],
          [p.box[0][0], p.box[1][1]],
          [p.box[1][0], p.box[0][1]],
        ]
      : [],
  );
}
