/** Three arcs with a bead each, to turn about x, y and z. */
import { Line } from '@react-three/drei';
import { useFrame, useThree } from '@react-three/fiber';
import { useMemo, useRef } from 'react';
import * as THREE from 'three';
import type { Vector } from '../../controls/editor';
import { short } from '../../controls/format';
import { HELD } from '../../controls/held';
import { INK } from '../../theme/ink';
import { toStep, turned } from '../carry';
import type { DragContext } from '../dragContext';
import { passed } from '../passed';
import { mmPerPixel } from '../pointer';
import { Grip, type Pull } from './Grip';

const BEYOND_PX = 16;
const FINE = 15;
const SPAN = 0.55; // radians to either side of the bead

type Props = { context: DragContext; ids: string[]; box: THREE.Box3; centre: THREE.Vector3 };

export function TurnGrips({ context, ids, box, centre }: Props) {
  const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
  return [0, 1, 2].map((axis) => (
    <TurnGrip
      key={axis}
      axis={axis}
      context={context}
      ids={ids}
      half={half}
      pivot={box.getCenter(new THREE.Vector3())}
      centre={centre}
    />
  ));
}

type OneProps = {
  axis: number;
  context: DragContext;
  ids: string[];
  half: THREE.Vector3;
  pivot: THREE.Vector3;
  centre: THREE.Vector3;
};

function TurnGrip({ axis, context, ids, half, pivot, centre }: OneProps) {
  const { gl } = useThree();
  const arc = useRef<THREE.Group>(null);
  const [b, c] = [(axis + 1) % 3, (axis + 2) % 3] as [number, number];
  const radius = (mm: number) => Math.hypot(half.getComponent(b), half.getComponent(c)) + BEYOND_PX * mm;
  const along = useRef(new THREE.Vector3());

  // The bead stands on the side that faces the camera.
  const place = (mm: number, camera: THREE.Camera) => {
    const facing = camera.getWorldDirection(new THREE.Vector3());
    const side = (k: number) => (facing.getComponent(k) > 0 ? -1 : 1);
    const way = new THREE.Vector3().setComponent(b, side(b)).setComponent(c, side(c)).normalize();
    along.current.copy(way);
    return pivot.clone().addScaledVector(way, radius(mm));
  };
  useFrame(({ camera }) => {
    const mm = mmPerPixel(camera, gl.domElement, pivot);
    place(mm, camera);
    const group = arc.current;
    if (!group) return;
    const normal = new THREE.Vector3().setComponent(axis, 1);
    group.matrix
      .makeBasis(along.current, normal.clone().cross(along.current), normal)
      .scale(new THREE.Vector3().setScalar(radius(mm)))
      .setPosition(pivot);
    group.matrixAutoUpdate = false;
    group.matrixWorldNeedsUpdate = true;
  }, -1);
  const points = useMemo(
    () =>
      Array.from({ length: 25 }, (_, i) => {
        const angle = (i / 12 - 1) * SPAN;
        return new THREE.Vector3(Math.cos(angle), Math.sin(angle), 0);
      }),
    [],
  );

  const normal: Vector = [0, 0, 0];
  normal[axis] = 1;
  const pull: Pull = {
    begin: (ray) => {
      const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(new THREE.Vector3(...normal), centre);
      const angleOf = (r: THREE.Ray): number | null => {
        const hit = r.intersectPlane(plane, new THREE.Vector3())?.sub(centre);
        return hit ? Math.atan2(hit.getComponent(c), hit.getComponent(b)) * (180 / Math.PI) : null;
      };
      let last = angleOf(ray);
      if (last === null) return null;
      let total = 0;
      return (r) => {
        const now = angleOf(r);
        if (now === null) return;
        total += ((now - (last as number) + 540) % 360) - 180;
        last = now;
        const step = HELD.free() ? 0.1 : context.preferences.turn_deg / (HELD.fine() ? FINE : 1);
        const angle = toStep(total, step);
        const kind = turned(ids, normal, angle, centre.toArray());
        context.show({ ...kind, said: `turned ${short(angle, 1)}° about ${'xyz'[axis]}`, snaps: [] });
      };
    },
    end: context.letGo,
    cancel: context.cancel,
  };
  return (
    <>
      <group ref={arc}>
        <Line
          points={points}
          color={INK.ink}
          lineWidth={2}
          depthTest={false}
          renderOrder={7}
          raycast={passed}
          transparent
          opacity={0.75}
        />
      </group>
      <Grip kind="turn" label={`Turn about ${'xyz'[axis]}`} pivot={pivot} at={place} pull={pull} />
    </>
  );
}
