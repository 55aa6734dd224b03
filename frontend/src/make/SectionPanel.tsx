/** Where the section is, as a number; which side is seen; how large the cut face is. */
import { useShallow } from 'zustand/react/shallow';
import { type SectionAt, useEditor } from '../controls/editor';
import { NumberField } from '../controls/fields/NumberField';
import { short } from '../controls/format';
import { useShownCut } from '../viewport/cutFace';
import { acrossAxis, reachOf } from '../viewport/sectionAt';

const NAMES = { x: 'from the side', y: 'from the front', z: 'from above' };

export function SectionPanel({ bounds }: { bounds: [number[], number[]] | null | undefined }) {
  const { look, section, tool, set } = useEditor(
    useShallow((s) => ({ look: s.look, section: s.section, tool: s.tool, set: s.set })),
  );
  if (look !== 'section' || !section || tool === 'section-face') return null;
  const [low, high] = reachOf(section, bounds);
  const put = (values: Partial<SectionAt>) => set({ section: { ...section, ...values } });
  return (
    <section className="panel section-panel" aria-label="Section">
      <fieldset className="switch" aria-label="Seen">
        {(['y', 'x', 'z'] as const).map((axis) => (
          <button
            key={axis}
            type="button"
            aria-pressed={section.name === axis}
            onClick={() => set({ section: acrossAxis(axis, bounds) })}
          >
            {NAMES[axis]}
          </button>
        ))}
        <button
          type="button"
          aria-pressed={section.name === 'face'}
          title="then click the face that the cut shall lie along"
          onClick={() => set({ tool: 'section-face' })}
        >
          along a face
        </button>
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
      <NumberField
        label={section.name === 'face' ? 'from it' : `${section.name} at`}
        value={section.at}
        onApply={(at) => put({ at })}
      />
      <button
        type="button"
        className="plain small"
        onClick={() => put({ away: section.away === 1 ? -1 : 1 })}
      >
        Other side
      </button>
      <CutFigures />
    </section>
  );
}

/** How large the cut face is that is in sight. */
function CutFigures() {
  const face = useShownCut((s) => s.cut?.face);
  if (!face) return null;
  return (
    <span className="numbers quiet cut-figures" data-testid="cut-face">
      {face.area_mm2 > 0 ? (
        <>
          Cut face <b>{short(face.area_mm2, 2)} mm²</b>, outline <b>{short(face.outline_mm, 2)} mm</b>
        </>
      ) : (
        'Nothing is cut here'
      )}
    </span>
  );
}
