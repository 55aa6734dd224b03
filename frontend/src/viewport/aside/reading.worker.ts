/** Makes meshes ready for drawing. Small, so that it is there at once. */
import { cornersOf } from '../corners';
import { answer } from './answer';

const tasks = { corners: cornersOf };
export type Reading = typeof tasks;
answer(tasks);
