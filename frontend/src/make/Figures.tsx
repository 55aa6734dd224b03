/** What the piece measures, under the recipe. */
import { NavLink } from 'react-router';
import { short, size, UNSTEADY, volume, whole } from '../controls/format';
import type { Open } from '../controls/PieceFrame';

export function Figures({ open }: { open: Open }) {
  const s = open.state.scene?.soundness;
  const rows: [string, string | number][] = [
    ['Bodies', s ? s.bodies : '…'],
    ['Triangles', s ? (s.tiled ? `up to ${whole(s.triangles)}` : whole(s.triangles)) : '…'],
    ['Volume', s ? volume(s.volume_mm3) : '…'],
    ['Over all', s ? (s.bounds ? size(s.bounds[0], s.bounds[1]) : '—') : '…'],
  ];
  const tip = s?.tip_angle ?? null;
  return (
    <div className="figures numbers" data-testid="figures">
      <dl>
        {rows.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
        {tip !== null && (
          <div title="How far it may be tipped before it falls over, set down as it is: Print shows where">
            <dt>Stands</dt>
            <dd className={tip < UNSTEADY ? 'unsteady' : undefined}>
              <NavLink to={`/pieces/${open.id}/print`}>
                {tip > 0 ? `up to ${short(tip, 0)}°` : 'falls over'}
              </NavLink>
            </dd>
          </div>
        )}
      </dl>
    </div>
  );
}
