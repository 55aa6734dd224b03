/** How a part is turned. */
import type { Part } from '../../api/client';
import { NumberField } from '../../controls/fields/NumberField';
import type { Open } from '../../controls/PieceFrame';
import { setPart } from './setPart';

export function TurnFields({ open, part }: { open: Open; part: Part }) {
  const now = part.place.rotation;
  return (
    <div className="section">
      <h3>Turn</h3>
      <div className="fields">
        {['about x', 'about y', 'about z'].map((label, i) => (
          <NumberField
            key={label}
            label={label}
            unit="°"
            value={now[i] as number}
            disabled={part.locked}
            onApply={(v) => {
              const rotation = now.map((r, k) => (k === i ? v : r)) as [number, number, number];
              setPart(open, [part.id], { place: { ...part.place, rotation } });
            }}
          />
        ))}
      </div>
    </div>
  );
}
