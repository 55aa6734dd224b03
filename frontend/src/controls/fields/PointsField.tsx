/** Points in order, each coordinate a number; one more at the end, or one less. */
import { NumberField } from './NumberField';

type Props = {
  /** What each coordinate is called: x, y and so on. */
  axes: string[];
  value: number[][];
  least: number;
  most?: number;
  disabled?: boolean;
  onApply: (value: number[][]) => void;
};

export function PointsField({ axes, value, least, most, disabled, onApply }: Props) {
  return (
    <div className="points" style={{ gridTemplateColumns: `repeat(${axes.length}, minmax(0, 1fr))` }}>
      {value.flatMap((point, n) =>
        axes.map((axis, i) => (
          <NumberField
            // biome-ignore lint/suspicious/noArrayIndexKey: a point has no other name than its number
            key={`${n}${axis}`}
            label={`Point ${n + 1} ${axis}`}
            value={point[i] ?? 0}
            disabled={disabled}
            onApply={(v) => onApply(value.map((p, m) => (m === n ? p.map((w, k) => (k === i ? v : w)) : p)))}
          />
        )),
      )}
      <div className="buttons">
        <button
          type="button"
          className="plain small"
          disabled={disabled || (most !== undefined && value.length >= most)}
          onClick={() => onApply([...value, onward(value, axes.length)])}
        >
          + point
        </button>
        <button
          type="button"
          className="plain small"
          disabled={disabled || value.length <= least}
          onClick={() => onApply(value.slice(0, -1))}
        >
          − point
        </button>
      </div>
    </div>
  );
}

/** Half a step beyond the last point, as the last two lie. */
function onward(points: number[][], count: number): number[] {
  const last = points[points.length - 1] ?? Array<number>(count).fill(0);
  const before = points[points.length - 2] ?? last.map((v) => v - 10);
  return last.map((v, i) => v + (v - (before[i] as number)) / 2);
}
