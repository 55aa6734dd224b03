/** The colour of parts. */
import type { Open } from '../../controls/PieceFrame';
import { GLAZES } from '../../theme/glazes';
import { setPart } from './setPart';

export function Glaze({ open, ids, colour }: { open: Open; ids: string[]; colour: string | null }) {
  return (
    <div className="section">
      <h3>
        Glaze
        {colour && (
          <button type="button" className="bare quiet" onClick={() => setPart(open, ids, { colour: null })}>
            wash off
          </button>
        )}
      </h3>
      <div className="glazes">
        {GLAZES.map((glaze) => (
          <button
            key={glaze.name}
            type="button"
            className="swatch"
            title={glaze.name}
            aria-label={glaze.name}
            aria-pressed={colour === glaze.colour}
            style={{ background: glaze.colour }}
            onClick={() => setPart(open, ids, { colour: glaze.colour })}
          />
        ))}
      </div>
    </div>
  );
}
