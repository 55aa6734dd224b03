/** How smoothly a join runs together: a radius, seen while it is drawn out, and the fineness of the run. */
import { useState } from 'react';
import type { Edit, Part } from '../../api/client';
import { NumberField } from '../../controls/fields/NumberField';
import { short } from '../../controls/format';
import type { Open } from '../../controls/PieceFrame';
import type { Live } from '../useDragContext';

type Props = { open: Open; part: Part; live: Live };

export function BlendFields({ open, part, live }: Props) {
  const join = part.join;
  const size = open.state.scene?.parts.find((p) => p.id === part.id)?.size;
  const most = Math.max(1, Math.round(Math.min(...(size ?? [20])) / 2));
  const [drawn, setDrawn] = useState<number | null>(null);
  if (!join) return null;
  const edit = (values: { blend?: number; fineness?: number | null }): Edit => ({
    kind: 'set_join',
    id: part.id,
    ...values,
  });
  const done = () => {
    if (drawn === null) return;
    setDrawn(null);
    live.end();
    if (drawn !== join.blend) void open.work.edit(edit({ blend: drawn }));
  };
  return (
    <div className="section blend">
      <h3>
        Blend{' '}
        <span className="quiet">{join.blend ? 'runs together smoothly' : 'sharp where parts meet'}</span>
      </h3>
      <input
        type="range"
        aria-label="Draw out the blend"
        min={0}
        max={most}
        step={most / 40}
        value={drawn ?? join.blend}
        disabled={part.locked}
        onChange={(e) => {
          const blend = Number(Number(e.currentTarget.value).toFixed(2));
          setDrawn(blend);
          live.show(edit({ blend }), `blend ${short(blend, 2)} mm`);
        }}
        onPointerUp={done}
        onKeyUp={done}
        onBlur={done}
      />
      <div className="fields">
        <NumberField
          label="Radius"
          title="0 is sharp"
          value={drawn ?? join.blend}
          least={0}
          most={1000}
          disabled={part.locked}
          onApply={(blend) => void open.work.edit(edit({ blend }))}
        />
        {join.blend > 0 && (
          <NumberField
            label="Fineness"
            title="how fine the smooth run is; it follows the radius until you set it"
            value={join.fineness ?? Number((join.blend / 6).toFixed(3))}
            least={0.01}
            most={100}
            disabled={part.locked}
            onApply={(fineness) => void open.work.edit(edit({ fineness }))}
          />
        )}
      </div>
    </div>
  );
}
