/** How wide, deep and high a part is. */
import type { Part } from '../../api/client';
import { useEditor } from '../../controls/editor';
import { NumberField } from '../../controls/fields/NumberField';
import type { Open } from '../../controls/PieceFrame';

export function SizeFields({ open, part, size }: { open: Open; part: Part; size: [number, number, number] }) {
  const tie = useEditor((s) => s.proportions);
  const set = useEditor((s) => s.set);
  const apply = (axis: number, value: number) => {
    const factor = value / (size[axis] as number);
    const wanted = size.map((s, i) => (i === axis ? value : tie ? s * factor : s));
    void open.work.edit({ kind: 'resize', id: part.id, size: wanted as [number, number, number], was: size });
  };
  return (
    <div className="section">
      <h3>
        Size
        <label className="quiet">
          <input type="checkbox" checked={tie} onChange={() => set({ proportions: !tie })} /> keep proportions
        </label>
      </h3>
      <div className="fields">
        {['Wide', 'Deep', 'High'].map((label, i) => (
          <NumberField
            key={label}
            label={label}
            value={size[i] as number}
            least={0.001}
            disabled={part.locked}
            onApply={(v) => apply(i, v)}
          />
        ))}
      </div>
    </div>
  );
}
