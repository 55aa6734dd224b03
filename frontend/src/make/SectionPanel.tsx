/** Where the section is: its axis, its place as a number, and which side is seen. */
import { useShallow } from 'zustand/react/shallow';
import { type SectionAt, useEditor } from '../controls/editor';
import { NumberField } from '../controls/fields/NumberField';

const NAMES: Record<SectionAt['axis'], string> = { x: 'from the side', y: 'from the front', z: 'from above' };

export function SectionPanel({ bounds }: { bounds: [number[], number[]] | null | undefined }) {
  const { look, section, set } = useEditor(
    useShallow((s) => ({ look: s.look, section: s.section, set: s.set })),
  );
  if (look !== 'section' || !section) return null;
  const k = 'xyz'.indexOf(section.axis);
  const [low, high] = [bounds?.[0][k] ?? -50, bounds?.[1][k] ?? 50];
  const put = (values: Partial<SectionAt>) => set({ section: { ...section, ...values } });
  return (
    <section className="panel section-panel" aria-label="Section">
      <fieldset className="switch" aria-label="Seen">
        {(['y', 'x', 'z'] as const).map((axis) => (
          <button
            key={axis}
            type="button"
            aria-pressed={section.axis === axis}
            onClick={() => {
              const i = 'xyz'.indexOf(axis);
              put({ axis, at: ((bounds?.[0][i] ?? 0) + (bounds?.[1][i] ?? 0)) / 2 });
            }}
          >
            {NAMES[axis]}
          </button>
        ))}
      </fieldset>
      <input
        type="range"
        aria-label="Where the section is"
        min={low}
        max={high}
        step={(high - low) / 200 || 1}
        value={section.at}
        onChange={(e) => put({ at: Number(Number(e.currentTarget.value).toFixed(2)) })}
      />
      <NumberField label={`${section.axis} at`} value={section.at} onApply={(at) => put({ at })} />
      <button type="button" className="plain small" onClick={() => put({ flipped: !section.flipped })}>
        Other side
      </button>
    </section>
  );
}
