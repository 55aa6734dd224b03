/** The hand: picks, moves, and holds copies and fields by their handles. */
import { useEditor } from '../../controls/editor';
import { CopyGrips } from '../../viewport/grips/CopyGrips';
import { FieldGrips } from '../../viewport/grips/FieldGrips';
import { MoveTool } from '../../viewport/MoveTool';
import type { ToolProps, ViewTool } from './tool';

export const HAND: ViewTool = { name: 'hand', InScene: Hand };

function Hand({ context }: ToolProps) {
  const apart = useEditor((s) => s.look === 'apart');
  if (!context) return null;
  return (
    <>
      <MoveTool context={context} />
      {!apart && <CopyGrips context={context} />}
      {!apart && <FieldGrips context={context} />}
    </>
  );
}
