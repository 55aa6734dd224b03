/** A section along a face: the face that is pointed at says how the cut lies. */
import { useEditor } from '../../controls/editor';
import { alongFace } from '../../viewport/sectionAt';
import { FaceWanted, useFacePick } from './pickFace';
import type { ToolProps, ViewTool } from './tool';

export const SECTION_FACE: ViewTool = { name: 'section-face', InScene: PickFace, Note: PickNote };

function PickFace({ open }: ToolProps) {
  useFacePick(open.work, ({ point, normal }) =>
    useEditor.getState().set({ tool: 'hand', look: 'section', section: alongFace(point, normal) }),
  );
  return null;
}

function PickNote() {
  return (
    <FaceWanted label="Section along a face">
      <b>Section:</b> click the face that the cut shall lie along
    </FaceWanted>
  );
}
