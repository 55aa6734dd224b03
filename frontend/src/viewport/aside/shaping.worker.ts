/** What large skins want besides: coarser ones, trees of boxes for rays, sharp edges. */
import { coarser, roughly } from '../coarser';
import { sharpEdges, treeOf } from '../shapes';
import { answer } from './answer';

const tasks = { roughly, coarser, treeOf, sharpEdges };
export type Shaping = typeof tasks;
answer(tasks);
