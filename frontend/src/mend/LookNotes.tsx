/** What stands over the view while mended meshes are compared: what is on which side, the wiper, the scale of colours. */
import { type PointerEvent, useRef } from 'react';
import { short } from '../controls/format';
import { INK } from '../theme/ink';
import { over } from '../viewport/room';
import { gradientOf, type Scale } from '../viewport/scalarMap';
import type { Comparing } from './Comparison';

type Props = { look: Comparing; wiped: number; wipe: (at: number) => void; farthest: number };

export function LookNotes({ look, wiped, wipe, farthest }: Props) {
  switch (look) {
    case 'beside':
      return (
        <div className="floor-bar" {...over('bottom')}>
          <output className="note">left: before · right: after</output>
        </div>
      );
    case 'wiper':
      return <Wiper at={wiped} wipe={wipe} />;
    case 'moved':
      return <Legend farthest={farthest} />;
    default:
      return null;
  }
}

/** A line across the view that is dragged, or moved with the keys of a slider. */
function Wiper({ at, wipe }: { at: number; wipe: (at: number) => void }) {
  const line = useRef<HTMLDivElement>(null);
  const drag = (e: PointerEvent) => {
    const stage = line.current?.parentElement?.getBoundingClientRect();
    if (!stage || !(e.buttons & 1)) return;
    wipe(Math.min(1, Math.max(0, (e.clientX - stage.left) / stage.width)));
  };
  return (
    <>
      <div
        ref={line}
        className="wiper-line"
        data-testid="wiper"
        style={{ left: `${100 * at}%` }}
        onPointerDown={(e) => {
          e.preventDefault();
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={drag}
      >
        <span>before</span>
        <span>after</span>
      </div>
      <div className="floor-bar" {...over('bottom')}>
        <label className="note">
          Wiper{' '}
          <input
            type="range"
            min={0}
            max={1}
            step={0.01}
            value={at}
            aria-label="Where the wiper stands"
            onChange={(e) => wipe(Number(e.currentTarget.value))}
          />
        </label>
      </div>
    </>
  );
}

/** From clay, which has not moved, to the colour of flaws; little is seen too. */
export const movedScale = (farthest: number): Scale => ({
  from: INK.clay,
  to: INK.flaw,
  least: 0,
  most: farthest,
  curve: 'root',
});

function Legend({ farthest }: { farthest: number }) {
  return (
    <div className="floor-bar" {...over('bottom')}>
      <output className="note moved-scale" aria-label="Scale of colours">
        <span>as it was</span>
        <i style={{ background: gradientOf(movedScale(farthest)) }} />
        <span>{short(farthest, 3)} mm</span>
      </output>
    </div>
  );
}
