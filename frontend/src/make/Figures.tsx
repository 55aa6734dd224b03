/** What the piece measures, under the recipe. */
import { size, volume, whole } from '../controls/format';
import type { Open } from '../controls/PieceFrame';

export function Figures({ open }: { open: Open }) {
  const s = open.state.scene?.soundness;
  const rows: [string, string | number][] = [
    ['Bodies', s ? s.bodies : '…'],
    ['Triangles', s ? (s.tiled ? `up to ${whole(s.triangles)}` : whole(s.triangles)) : '…'],
    ['Volume', s ? volume(s.volume_mm3) : '…'],
    ['Over all', s ? (s.bounds ? size(s.bounds[0], s.bounds[1]) : '—') : '…'],
  ];
  return (
    <div className="figures numbers" data-testid="figures">
      <dl>
        {rows.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
