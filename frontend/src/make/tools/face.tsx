/** The wheel on a face: a face that is pointed at is the floor for a while. */
import { useThree } from '@react-three/fiber';
import type * as THREE from 'three';
import { said } from '../../api/client';
import { useWork } from '../../api/work';
import { useEditor } from '../../controls/editor';
import { firstHit, rayNumbers } from '../../viewport/pointer';
import { useFacePointer } from '../../viewport/useFacePointer';
import { Leave } from './Leave';
import type { ToolProps, ViewTool } from './tool';

export const FACE: ViewTool = {
  name: 'face',
  button: {
    under: 'view',
    word: 'Wheel on a face',
    title: 'Q: lay the wheel on a face for a while, to put parts on it',
  },
  InScene: Face,
  Note: FaceNote,
};

function Face({ open }: ToolProps) {
  const get = useThree((s) => s.get);
  const pick = async (ray: THREE.Raycaster) => {
    try {
      const { eye, direction } = rayNumbers(ray);
      const face = await open.work.face(eye, direction);
      const hit = firstHit(ray, get().scene);
      const name = (hit && open.known.get(hit.id)?.part.name) ?? 'the piece';
      const point = face.middle ?? face.point;
      useEditor.getState().set({ tool: 'hand', floor: { point, normal: face.normal, name } });
    } catch (error) {
      useWork.setState({ refusal: said(error) });
    }
  };
  useFacePointer({ pick: (ray) => void pick(ray) });
  return null;
}

function FaceNote() {
  return (
    <section className="panel" aria-label="Wheel on a face">
      <span>
        <b>Wheel on a face:</b> click the face that the wheel shall lie on for a while
      </span>
      <Leave />
    </section>
  );
}
