/** How a part enters its list: adds, cuts or keeps, and how softly; the body of a list has no choice. */
import type { Op, Part } from '../../api/client';
import { NumberField } from '../../controls/fields/NumberField';
import { short } from '../../controls/format';
import type { Open } from '../../controls/PieceFrame';
import { bodyOf, SIGN } from '../../controls/tree';
import { setPart } from './setPart';

export function Enters({ open, part }: { open: Open; part: Part }) {
  const known = open.known.get(part.id);
  if (!known || part.reference) return null;
  if (bodyOf(open.state.piece, known)?.id === part.id) return null;
  const list = known.parent?.join?.blend;
  const words: Record<Op, string> = { union: 'adds', difference: 'cuts', intersection: 'keeps' };
  return (
    <div className="section">
      <fieldset className="switch" aria-label="How it enters">
        {(Object.keys(words) as Op[]).map((op) => (
          <button
            key={op}
            type="button"
            className={op}
            aria-pressed={part.op === op}
            onClick={() => setPart(open, [part.id], { op })}
          >
            {SIGN[op]} {words[op]}
          </button>
        ))}
      </fieldset>
      <div className="fields mt-2">
        <NumberField
          label="Blend"
          title="the radius over which it runs into what stands; 0 is sharp, empty is as its join says"
          value={part.blend ?? null}
          least={0}
          most={1000}
          disabled={part.locked}
          none={list ? `${short(list, 2)}, the join’s` : 'sharp'}
          onApply={(blend) => setPart(open, [part.id], { blend })}
          onLeaveOut={() => setPart(open, [part.id], { blend: null })}
        />
      </div>
    </div>
  );
}
