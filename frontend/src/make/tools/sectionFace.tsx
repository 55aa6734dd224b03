/** A section along a face: the face that is pointed at says how the cut lies. */
import type * as THREE from 'three';
import { said } from '../../api/client';
import { useWork } from '../../api/work';
import { useEditor } from '../../controls/editor';
import { rayNumbers } from '../../viewport/pointer';
import { alongFace } from '../../viewport/sectionAt';
import { useFacePointer } from '../../viewport/useFacePointer';
import { Leave } from './Leave';
import type { ToolProps, ViewTool } from './tool';

export const SECTION_FACE: ViewTool = { name: 'section-face', InScene: PickFace, Note: PickNote };

function PickFace({ open }: ToolProps) {
  const pick = async (ray: THREE.Raycaster) => {
    try {
      const { eye, direction } = rayNumbers(ray);
      const { point, normal } = await open.work.face(eye, direction);
      useEditor.getState().set({ tool: 'hand', look: 'section', section: alongFace(point, normal) });
    } catch (error) {
      useWork.setState({ refusal: said(error) });
    }
  };
  useFacePointer({ pick: (ray) => void pick(ray) });
  return null;
}

function PickNote() {
  return (
    <section className="panel" aria-label="Section along a face">
      <span>
        <b>Section:</b> click the face that the cut shall lie along
      </span>
      <Leave />
    </section>
  );
}
