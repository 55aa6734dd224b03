/** The sight dial: turns the view to a side, and between perspective and parallel. */
import { useShallow } from 'zustand/react/shallow';
import { usePreferences } from '../api/preferences';
import { chords } from '../controls/commands';
import { type Projection, useEditor } from '../controls/editor';
import type { Rig, ViewSide } from './CameraRig';
import { EYE_STEPS } from './eyeSteps';
import { usePace } from './pace';

const PATHS: { side: ViewSide; d: string; x: number; y: number }[] = [
  { side: 'back', d: arc(-135, -45), x: 50, y: 12 },
  { side: 'right', d: arc(-45, 45), x: 85, y: 50 },
  { side: 'front', d: arc(45, 135), x: 50, y: 88 },
  { side: 'left', d: arc(135, 225), x: 15, y: 50 },
];

const HALVES: { side: ViewSide; label: string; d: string; y: number }[] = [
  { side: 'top', label: 'Look from the top', d: 'M27 49a23 23 0 0 1 46 0z', y: 40 },
  { side: 'under', label: 'Look from under', d: 'M27 51a23 23 0 0 0 46 0z', y: 60 },
];

export function ViewDial({ rig }: { rig: () => Rig | null }) {
  const { projection, set } = useEditor(useShallow((s) => ({ projection: s.projection, set: s.set })));
  const keys = chords(usePreferences().shortcuts);
  const coarser = usePace((s) => s.budget < s.inSight);
  const zone = (side: ViewSide, label: string, content: React.ReactNode) => (
    // biome-ignore lint/a11y/useSemanticElements: a button cannot stand inside a drawing
    <g
      key={side}
      role="button"
      tabIndex={0}
      aria-label={label}
      onClick={() => rig()?.look(side)}
      onKeyDown={(e) => (e.key === 'Enter' || e.key === ' ') && rig()?.look(side)}
    >
      {content}
    </g>
  );
  return (
    <div className="dial">
      <svg viewBox="0 0 100 100" aria-label="Sight dial">
        {PATHS.map(({ side, d, x, y }) =>
          zone(
            side,
            `Look from the ${side}`,
            <>
              <path className="zone" d={d} />
              <text x={x} y={y}>
                {side}
              </text>
            </>,
          ),
        )}
        {HALVES.map(({ side, label, d, y }) =>
          zone(
            side,
            label,
            <>
              <path className="core" d={d} />
              <text className="light" x={50} y={y}>
                {side}
              </text>
            </>,
          ),
        )}
      </svg>
      <fieldset className="switch" aria-label="Projection">
        {(['perspective', 'parallel'] as Projection[]).map((p) => (
          <button
            key={p}
            type="button"
            aria-pressed={projection === p}
            onClick={() => set({ projection: p })}
            title={p === 'perspective' ? 'what is farther is smaller' : 'nothing is smaller for being far'}
          >
            {p}
          </button>
        ))}
      </fieldset>
      <div className="eye-steps">
        {EYE_STEPS.map(({ sign, label, command, step }) => (
          <button
            key={command}
            type="button"
            aria-label={label}
            title={keys.get(command) ? `${label} (${keys.get(command)})` : label}
            onClick={() => {
              const now = rig();
              if (now) step(now);
            }}
          >
            {sign}
          </button>
        ))}
      </div>
      {coarser && (
        <p
          className="coarser"
          title="This machine takes long to draw so much: while it moves it is drawn coarser, and at rest as fine as takes a second. The piece and its files stay as fine as they are."
        >
          drawn coarser
        </p>
      )}
    </div>
  );
}

/** A ring sector between two angles, degrees clockwise from the right. */
function arc(from: number, to: number): string {
  const at = (r: number, a: number) =>
    `${50 + r * Math.cos((a * Math.PI) / 180)} ${50 + r * Math.sin((a * Math.PI) / 180)}`;
  return `M${at(49, from)}A49 49 0 0 1 ${at(49, to)}L${at(26, to)}A26 26 0 0 0 ${at(26, from)}Z`;
}
