/** The tools of the view: a file each, a line each. The first is in hand when no other is. */
import { DRAW } from './draw';
import { FACE } from './face';
import { HAND } from './hand';
import { MEASURE } from './measure';
import { BOX, LASSO } from './pickByDrawing';
import { PICTURE } from './picture';
import { REFERENCES } from './references';
import { SEAT } from './seat';
import { SECTION_FACE } from './sectionFace';
import type { ViewTool } from './tool';

export const TOOLS: ViewTool[] = [
  HAND,
  SEAT,
  FACE,
  MEASURE,
  SECTION_FACE,
  DRAW,
  BOX,
  LASSO,
  PICTURE,
  REFERENCES,
];

export const toolNamed = (name: string): ViewTool => TOOLS.find((t) => t.name === name) ?? HAND;
