/** The page's two workers: one reads what is to be seen now, the other does what can wait. */
import { asking } from './ask';
import type { Reading } from './reading.worker';
import type { Shaping } from './shaping.worker';

export const reading = asking<Reading>(
  () => new Worker(new URL('./reading.worker.ts', import.meta.url), { type: 'module' }),
);
export const shaping = asking<Shaping>(
  () => new Worker(new URL('./shaping.worker.ts', import.meta.url), { type: 'module' }),
);
