/** A limb's points in the view: each dragged, with a ring for how thick it is there, and more of them between. */
import { useFrame, useThree } from '@react-three/fiber';
import { useMemo, useRef } from 'react';
import * as THREE from 'three';
import type { Edit, Part } from '../api/client';
import { useEditor } from '../controls/editor';
import { short } from '../controls/format';
import { HELD } from '../controls/held';
import { INK } from '../theme/ink';
import { toStep } from '../viewport/carry';
import type { DragContext } from '../viewport/dragContext';
import { Grip, type Pull } from '../viewport/grips/Grip';
import { matrixOf } from '../viewport/meshes';
import { firstHit } from '../viewport/pointer';
import { extended, type Limb, moved, type Triple, thick } from './limb';

const RING_SIDES = 48;

type Props = { context: DragContext; part: Part; limb: Limb; onEdit: (limb: Limb) => void };

export function LimbGrips({ context, part, limb, onEdit }: Props) {
  const { get } = useThree();
  const drag = useEditor((s) => s.drag);
  const view = context.scene.parts.find((p) => p.id === part.id);
  const onSurfaces = useEditor((s) => s.onSurfaces);
  const frame = useMemo(() => matrixOf(view?.matrices[0] ?? []), [view]);
  if (!view?.drawn_origin || part.locked) return null;
  // While it is dragged it is drawn as the hand has it.
  const edited =
    drag?.edit?.kind === 'set_primitive' && drag.edit.id === part.id ? drag.edit.primitive : null;
  const shown = (edited as Limb | null) ?? limb;
  const origin = new THREE.Vector3(...view.drawn_origin);
  const toWheel = (p: readonly number[]) =>
    new THREE.Vector3(p[0], p[1], p[2]).sub(origin).applyMatrix4(frame);
  const toOwn = (p: THREE.Vector3): Triple =>
    p.clone().applyMatrix4(frame.clone().invert()).add(origin).toArray();
  const scale = Math.cbrt(Math.abs(frame.determinant()));

  const editOf = (next: Limb): Edit => ({ kind: 'set_primitive', id: part.id, primitive: next });
  const show = (next: Limb, said: string) =>
    context.show({ carried: new Map(), said, edit: editOf(next), snaps: [] });
  const facing = () => get().camera.getWorldDirection(new THREE.Vector3());
  const inPlane = (ray: THREE.Ray, at: THREE.Vector3) =>
    ray.intersectPlane(new THREE.Plane().setFromNormalAndCoplanarPoint(facing(), at), new THREE.Vector3());

  const pullPoint = (index: number): Pull => {
    const start = toWheel(limb.points[index] as Triple);
    return {
      begin: (ray) => {
        const first = inPlane(ray, start);
        if (!first) return null;
        return (r) => {
          const now = inPlane(r, start);
          if (!now) return;
          const hit = onSurfaces ? otherSurface(r, get().scene, part.id) : null;
          const step = HELD.free() ? 0.01 : context.preferences.grid_mm / (HELD.fine() ? 10 : 1);
          const to = hit ?? start.clone().add(now.sub(first));
          const own = toOwn(to);
          const at = (hit ? own : own.map((v) => toStep(v, step))) as Triple;
          const said = `point ${index + 1} at ${toWheel(at)
            .toArray()
            .map((v) => short(v, 2))
            .join(', ')}${hit ? ', on the surface' : ''}`;
          show(moved(limb, index, at), said);
        };
      },
      end: context.letGo,
      cancel: context.cancel,
    };
  };
  const pullRing = (index: number): Pull => {
    const at = toWheel(limb.points[index] as Triple);
    return {
      begin: () => (r) => {
        const now = inPlane(r, at);
        if (!now) return;
        const radius = Math.max(0.1, toStep(now.distanceTo(at) / scale, HELD.free() ? 0.01 : 0.1));
        show(thick(limb, index, radius), `radius ${short(radius * scale, 2)} mm at point ${index + 1}`);
      },
      end: context.letGo,
      cancel: context.cancel,
    };
  };
  const count = shown.points.length;
  const path = [...shown.points, ...(shown.closed ? [shown.points[0] as Triple] : [])].map((p) => toWheel(p));
  return (
    <>
      <Path points={path} />
      {shown.points.map((p, i) => {
        const at = toWheel(p);
        const radius = (shown.radii[i] as number) * scale;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a point has no other name than its number
          <group key={i}>
            <Ring at={at} radius={radius} />
            <Grip
              kind="limb-point"
              label={`Point ${i + 1} of the limb`}
              pivot={at}
              at={() => at}
              pull={pullPoint(i)}
            />
            <Grip
              kind="limb-ring"
              label={`How thick the limb is at point ${i + 1}`}
              pivot={at}
              at={(mm, camera) => at.clone().addScaledVector(rightOf(camera), Math.max(radius, 14 * mm))}
              pull={pullRing(i)}
            />
            {(i < count - 1 || shown.closed) && !drag && (
              <Grip
                kind="limb-more"
                label={`One more point after point ${i + 1}`}
                pivot={at}
                at={() => toWheel(extended(shown, i).points[i + 1] as Triple)}
                pull={{
                  begin: () => () => undefined,
                  end: () => onEdit(extended(limb, i)),
                  cancel: () => undefined,
                }}
              >
                +
              </Grip>
            )}
          </group>
        );
      })}
      {!shown.closed && !drag && (
        <Grip
          kind="limb-more"
          label="One more point at the end"
          pivot={toWheel(shown.points[count - 1] as Triple)}
          at={() => toWheel(extended(shown, count - 1).points[count] as Triple)}
          pull={{
            begin: () => () => undefined,
            end: () => onEdit(extended(limb, count - 1)),
            cancel: () => undefined,
          }}
        >
          +
        </Grip>
      )}
    </>
  );
}

const rightOf = (camera: THREE.Camera) => new THREE.Vector3(1, 0, 0).applyQuaternion(camera.quaternion);

/** Where a ray meets a part other than the limb. */
function otherSurface(ray: THREE.Ray, scene: THREE.Scene, limb: string): THREE.Vector3 | null {
  const caster = new THREE.Raycaster(ray.origin, ray.direction);
  const hit = firstHit(caster, scene);
  return hit && hit.id !== limb ? hit.point : null;
}

/** How thick it is: a circle that always faces the eye. */
function Ring({ at, radius }: { at: THREE.Vector3; radius: number }) {
  const line = useRef<THREE.Group>(null);
  useFrame(({ camera }) => line.current?.quaternion.copy(camera.quaternion));
  const made = useMemo(() => {
    const turns = Array.from({ length: RING_SIDES }, (_, i) => (2 * Math.PI * i) / RING_SIDES);
    const points = turns.map((a) => new THREE.Vector3(Math.cos(a), Math.sin(a), 0));
    return lineOf(new THREE.LineLoop(new THREE.BufferGeometry().setFromPoints(points)));
  }, []);
  return (
    <group ref={line} position={at} scale={radius}>
      <primitive object={made} />
    </group>
  );
}

function Path({ points }: { points: THREE.Vector3[] }) {
  const key = points.map((p) => p.toArray().join()).join(';');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says all of the points
  const made = useMemo(() => lineOf(new THREE.Line(new THREE.BufferGeometry().setFromPoints(points))), [key]);
  return <primitive object={made} />;
}

/** Over all else, so that it is seen within the skin. */
function lineOf<L extends THREE.Line>(line: L): L {
  line.material = new THREE.LineBasicMaterial({ color: INK.chosen, depthTest: false, transparent: true });
  line.renderOrder = 5;
  line.raycast = () => undefined;
  return line;
}
