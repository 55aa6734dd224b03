/** The wheel on a face: a face that is pointed at is the floor for a while. */
import { useThree } from '@react-three/fiber';
import { useEditor } from '../../controls/editor';
import { firstHit } from '../../viewport/pointer';
import { FaceWanted, useFacePick } from './pickFace';
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
  useFacePick(open.work, (face, ray) => {
    const hit = firstHit(ray, get().scene);
    const name = (hit && open.known.get(hit.id)?.part.name) ?? 'the piece';
    const point = face.middle ?? face.point;
    useEditor.getState().set({ tool: 'hand', floor: { point, normal: face.normal, name } });
  });
  return null;
}

function FaceNote() {
  return (
    <FaceWanted label="Wheel on a face">
      <b>Wheel on a face:</b> click the face that the wheel shall lie on for a while
    </FaceWanted>
  );
}
