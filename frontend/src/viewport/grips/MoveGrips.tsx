/** Three leaves to move along x, y and z, and a dot to move in the plane that faces the camera. */
import { Line } from '@react-three/drei';
import { useFrame, useThree } from '@react-three/fiber';
import { useRef } from 'react';
import * as THREE from 'three';
import type { Vector } from '../../controls/editor';
import { idsHeld } from '../../controls/tree';
import { INK } from '../../theme/ink';
import { type DragContext, moveDrag, snapReach } from '../dragContext';
import { passed } from '../passed';
import { alongAxis, mmPerPixel } from '../pointer';
import { Snapper } from '../snapping';
import { Grip, type Pull } from './Grip';

const AWAY_PX = 46;
const AXES: { name: string; way: string; letter: string }[] = [
  { name: 'across', way: 'to the right', letter: 'x' },
  { name: 'away', way: 'away', letter: 'y' },
  { name: 'up', way: 'up', letter: 'z' },
];

type Props = { context: DragContext; ids: string[]; box: THREE.Box3 };

export function MoveGrips({ context, ids, box }: Props) {
  const { gl, get } = useThree();
  const pivot = box.getCenter(new THREE.Vector3());
  const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);

  const pull = (axis: number | null): Pull => ({
    begin: (ray) => {
      const snapper = new Snapper(context.scene, context.known, idsHeld(context.known, ids), ids);
      const camera = get().camera;
      const reach = snapReach(camera, gl.domElement, pivot);
      const facing = camera.getWorldDirection(new THREE.Vector3());
      const where = (r: THREE.Ray): THREE.Vector3 | null => {
        if (axis === null)
          return r.intersectPlane(
            new THREE.Plane().setFromNormalAndCoplanarPoint(facing, pivot),
            new THREE.Vector3(),
          );
        const t = alongAxis(r, pivot, unit(axis));
        return t === null ? null : unit(axis).multiplyScalar(t);
      };
      const start = where(ray);
      if (!start) return null;
      const free: [boolean, boolean, boolean] =
        axis === null ? [true, true, true] : [axis === 0, axis === 1, axis === 2];
      return (r) => {
        const now = where(r);
        if (now)
          context.show(moveDrag(ids, now.sub(start).toArray() as Vector, free, snapper, reach, context));
      };
    },
    end: context.letGo,
    cancel: context.cancel,
  });

  return (
    <>
      {AXES.map(({ name, way, letter }, axis) => (
        <group key={name}>
          <Rod pivot={pivot} axis={axis} from={half.getComponent(axis)} />
          <Grip
            kind="move"
            label={`Move ${name}`}
            pivot={pivot}
            at={(mm) => pivot.clone().addScaledVector(unit(axis), half.getComponent(axis) + AWAY_PX * mm)}
            pull={pull(axis)}
          >
            <span title={way}>{letter}</span>
          </Grip>
        </group>
      ))}
      <Grip
        kind="plane"
        label="Move in the plane of the view"
        pivot={pivot}
        at={() => pivot}
        pull={pull(null)}
      />
    </>
  );
}

const unit = (axis: number): THREE.Vector3 => new THREE.Vector3().setComponent(axis, 1);

/** The line from the box to the leaf, as long on the screen however near. */
function Rod({ pivot, axis, from }: { pivot: THREE.Vector3; axis: number; from: number }) {
  const group = useRef<THREE.Group>(null);
  const { gl } = useThree();
  useFrame(({ camera }) => {
    const length = AWAY_PX * mmPerPixel(camera, gl.domElement, pivot);
    group.current?.position.copy(pivot.clone().addScaledVector(unit(axis), from));
    group.current?.scale.setScalar(length);
  }, -1);
  return (
    <group ref={group}>
      <Line
        points={[new THREE.Vector3(), unit(axis)]}
        color={INK.chosen}
        lineWidth={2.5}
        depthTest={false}
        renderOrder={7}
        raycast={passed}
      />
    </group>
  );
}
