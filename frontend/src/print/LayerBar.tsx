/** Going through the layers: a slider, keys, a typed number, and playing them one after the other. */
import { useEffect, useState } from 'react';
import { short } from '../controls/format';
import { over } from '../viewport/room';
import { PATHS } from './looks';

type Props = { layers: number; at: number; thick: number; setLayer: (layer: number) => void };

/** ms from one layer to the next, and how long the whole may take. */
const LEAST_MS = 60;
const WHOLE_MS = 20_000;

export function LayerBar({ layers, at, thick, setLayer }: Props) {
  const [playing, play] = useState(false);
  const over_ = at >= layers - 1;
  useEffect(() => {
    if (!playing) return;
    if (over_) {
      play(false);
      return;
    }
    const stride = Math.max(1, Math.ceil((layers * LEAST_MS) / WHOLE_MS));
    const next = setTimeout(() => setLayer(Math.min(layers - 1, at + stride)), LEAST_MS);
    return () => clearTimeout(next);
  }, [playing, over_, at, layers, setLayer]);
  const begin = () => {
    if (over_) setLayer(0);
    play(true);
  };
  return (
    <div className="floor-bar layers" {...over('bottom')}>
      <div className="note layer-bar">
        <button
          type="button"
          className="plain small"
          aria-pressed={playing}
          onClick={() => (playing ? play(false) : begin())}
        >
          {playing ? 'Pause' : 'Play'}
        </button>
        <output>
          Layer <b className="numbers">{at + 1}</b> of {layers.toLocaleString('en')}
        </output>
        <input
          type="range"
          min={1}
          max={layers}
          value={at + 1}
          aria-label="Layer"
          onChange={(e) => {
            play(false);
            setLayer(Number(e.currentTarget.value) - 1);
          }}
        />
        <span className="numbers">{short((at + 1) * thick, 2)} mm</span>
        <span className="path-kinds">
          {PATHS.map(({ word, colour }) => (
            <span key={word}>
              <i style={{ background: colour() }} />
              {word}
            </span>
          ))}
        </span>
      </div>
    </div>
  );
}
