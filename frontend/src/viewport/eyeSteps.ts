/** Steps of the eye: under the sight dial, and as commands. */
import type { Rig } from './CameraRig';

/** Degrees that the eye turns and tilts by. */
const QUARTER = 90;
const TILT = 15;

export const EYE_STEPS = [
  {
    command: 'eye-left',
    sign: '↺',
    label: 'Turn a quarter to the left',
    step: (rig: Rig) => rig.turn(QUARTER, 0),
  },
  {
    command: 'eye-right',
    sign: '↻',
    label: 'Turn a quarter to the right',
    step: (rig: Rig) => rig.turn(-QUARTER, 0),
  },
  { command: 'eye-up', sign: '⌃', label: 'Look from higher', step: (rig: Rig) => rig.turn(0, TILT) },
  { command: 'eye-down', sign: '⌄', label: 'Look from lower', step: (rig: Rig) => rig.turn(0, -TILT) },
  { command: 'eye-back', sign: '⤺', label: 'Back to where you looked from', step: (rig: Rig) => rig.back() },
] as const;
