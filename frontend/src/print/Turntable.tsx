/** A moving picture of the piece that turns once around, to show to others. */
import { useState } from 'react';
import { type Turning, useTurntable } from '../api/printing';
import { NumberField } from '../controls/fields/NumberField';
import type { Open } from '../controls/PieceFrame';
import { AskedFor } from './AskedFor';

export function Turntable({ open }: { open: Open }) {
  const [turning, setTurning] = useState<Turning>({ pictures: 36, width: 480, seconds: 4 });
  const asked = useTurntable(open.id, open.state.revision, turning);
  const put = (more: Partial<Turning>) => setTurning({ ...turning, ...more });
  return (
    <div className="section">
      <h3>Turntable</h3>
      <p className="quiet mb-2">The piece turns once around, as a moving picture to show to others.</p>
      <div className="fields mb-2">
        <NumberField
          label="Pictures"
          value={turning.pictures}
          least={8}
          most={120}
          wholeNumber
          onApply={(pictures) => put({ pictures })}
        />
        <NumberField
          label="Wide, px"
          value={turning.width}
          least={64}
          most={1600}
          wholeNumber
          onApply={(width) => put({ width })}
        />
        <NumberField
          label="A turn, s"
          value={turning.seconds}
          least={0.5}
          most={60}
          onApply={(seconds) => put({ seconds })}
        />
      </div>
      <AskedFor asked={asked} word="Turn it">
        {(job) =>
          (['gif', 'webp'] as const).map((kind) => (
            <a
              key={kind}
              className="plain"
              href={`/api/jobs/${job}/turntable.${kind}`}
              download={`${open.state.piece.name}.${kind}`}
            >
              Take out the {kind === 'gif' ? 'GIF' : 'WebP'}
            </a>
          ))
        }
      </AskedFor>
    </div>
  );
}
