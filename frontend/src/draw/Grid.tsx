/** The grid of the sheet: a line every so many mm, each fifth stronger, with its number. */
import { short } from '../controls/format';
import type { Pair } from './nodes';
import { nice, type Seen } from './sight';

export function Grid({
  now,
  size,
  px,
  grid,
}: {
  now: Seen;
  size: Pair;
  px: (x: number, y: number) => Pair;
  grid: number;
}) {
  const step = nice(Math.max(grid, 1), now.mm, 14);
  const lines = (middle: number, half: number) => {
    const first = Math.ceil((middle - half) / step);
    const last = Math.floor((middle + half) / step);
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => first + i);
  };
  return (
    <g className="grid">
      {lines(now.x, (size[0] / 2) * now.mm).map((i) => {
        const [x] = px(i * step, 0);
        return (
          <g key={`x${i}`} className={i % 5 ? '' : 'strong'}>
            <line x1={x} x2={x} y1={0} y2={size[1]} />
            {i % 5 === 0 && (
              <text x={x + 3} y={size[1] - 5}>
                {short(i * step)}
              </text>
            )}
          </g>
        );
      })}
      {lines(now.y, (size[1] / 2) * now.mm).map((i) => {
        const [, y] = px(0, i * step);
        return (
          <g key={`y${i}`} className={i % 5 ? '' : 'strong'}>
            <line x1={0} x2={size[0]} y1={y} y2={y} />
            {i % 5 === 0 && (
              <text x={4} y={y - 3}>
                {short(i * step)}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}
