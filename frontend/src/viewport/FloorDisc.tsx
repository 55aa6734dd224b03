/** The disc of the face that is the floor for now, with a ring every 10 mm. */
import * as THREE from 'three';
import { useEditor, type Vector } from '../controls/editor';
import { INK } from '../theme/ink';
import { passed } from './passed';

export function FloorDisc() {
  const floor = useEditor((s) => s.floor);
  if (!floor) return null;
  const turn = new THREE.Quaternion().setFromUnitVectors(
    new THREE.Vector3(0, 0, 1),
    new THREE.Vector3(...(floor.normal as Vector)),
  );
  const lift = new THREE.Vector3(...floor.normal).multiplyScalar(0.05).add(new THREE.Vector3(...floor.point));
  return (
    <group position={lift} quaternion={turn}>
      {[10, 20, 30].map((r) => (
        <mesh key={r} raycast={passed} renderOrder={5}>
          <ringGeometry args={[r - 0.18, r + 0.18, 96]} />
          <meshBasicMaterial color={INK.chosen} transparent opacity={0.7} side={THREE.DoubleSide} />
        </mesh>
      ))}
      <mesh raycast={passed} renderOrder={4}>
        <circleGeometry args={[30, 96]} />
        <meshBasicMaterial
          color={INK.chosen}
          transparent
          opacity={0.1}
          side={THREE.DoubleSide}
          depthWrite={false}
        />
      </mesh>
    </group>
  );
}
