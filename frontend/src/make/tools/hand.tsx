/** The hand: picks, moves, and holds copies and fields by their handles. */
import { CopyGrips } from '../../viewport/grips/CopyGrips';
import { FieldGrips } from '../../viewport/grips/FieldGrips';
import { MoveTool } from '../../viewport/MoveTool';
import type { ToolProps, ViewTool } from './tool';

export const HAND: ViewTool = { name: 'hand', InScene: Hand };

function Hand({ context }: ToolProps) {
  if (!context) return null;
  return (
    <>
      <MoveTool context={context} />
      <CopyGrips context={context} />
      <FieldGrips context={context} />
    </>
  );
}
