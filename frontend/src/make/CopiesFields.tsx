/** Copies of a part: begun, changed by number, taken away, or broken apart into parts of their own. */
import type { Copies, Part } from '../api/client';
import { NumberField } from '../controls/NumberField';
import type { Open } from '../controls/PieceFrame';
import type { Actions } from './actions';
import { beginCopies, COPIES, setCopies } from './copies';

const AXES = ['x', 'y', 'z'] as const;
type Props = { open: Open; part: Part; actions: Actions };

export function CopiesFields({ open, part, actions }: Props) {
  const copies = part.copies;
  const set = (changes: Partial<Copies>) =>
    void setCopies(open, part.id, { ...(copies as Copies), ...changes } as Copies);
  return (
    <div className="section copies">
      <h3>
        Copies
        {copies && (
          <button type="button" className="bare quiet" onClick={() => void setCopies(open, part.id, null)}>
            take away
          </button>
        )}
      </h3>
      <fieldset className="switch" aria-label="Copies" disabled={part.locked}>
        {COPIES.map(({ kind, title }) => (
          <button
            key={kind}
            type="button"
            title={title}
            aria-pressed={copies?.kind === kind}
            onClick={() => beginCopies(open, [part.id], kind)}
          >
            {kind}
          </button>
        ))}
      </fieldset>
      {copies && (
        <>
          <div className="fields mt-2">
            <KindFields copies={copies} set={set} locked={part.locked} />
          </div>
          <div className="buttons mt-2">
            <button type="button" className="plain small" onClick={() => void actions.breakCopies()}>
              Break apart
            </button>
          </div>
        </>
      )}
    </div>
  );
}

type Kind = { copies: Copies; set: (changes: Partial<Copies>) => void; locked: boolean };

function KindFields({ copies, set, locked }: Kind) {
  const number = (
    label: string,
    value: number,
    onApply: (v: number) => void,
    more: { unit?: string; whole?: boolean; least?: number; title?: string } = {},
  ) => (
    <NumberField
      key={label}
      label={label}
      value={value}
      unit={more.unit}
      least={more.least}
      title={more.title}
      wholeNumber={more.whole}
      disabled={locked}
      onApply={onApply}
    />
  );
  const count = (value: number) =>
    number('Count', value, (v) => set({ count: v } as never), { whole: true, least: 2 });
  const triple = (name: string, labels: string[], value: number[], whole = false) =>
    labels.map((label, i) =>
      number(
        label,
        value[i] as number,
        (v) => set({ [name]: value.map((w, k) => (k === i ? v : w)) } as never),
        {
          whole,
          least: whole ? 1 : undefined,
        },
      ),
    );
  const axis = (value: string) => (
    <div className="field" key="axis">
      <label htmlFor="copies-axis">About</label>
      <select
        id="copies-axis"
        value={value}
        disabled={locked}
        onChange={(e) => set({ axis: e.currentTarget.value } as never)}
      >
        {AXES.map((a) => (
          <option key={a}>{a}</option>
        ))}
      </select>
    </div>
  );
  switch (copies.kind) {
    case 'row':
      return [count(copies.count), ...triple('step', ['Step x', 'Step y', 'Step z'], copies.step)];
    case 'ring':
      return [
        count(copies.count),
        number('Angle', copies.angle, (angle) => set({ angle } as never), {
          unit: '°',
          title: 'between neighbours',
        }),
        axis(copies.axis),
        ...triple('centre', ['Centre x', 'Centre y', 'Centre z'], copies.centre),
        number('Rise', copies.rise, (rise) => set({ rise } as never), { title: 'per copy, along the axis' }),
        <button
          key="full"
          type="button"
          className="plain small full-turn"
          disabled={locked}
          title="the copies share a full turn"
          onClick={() => set({ angle: 360 / copies.count } as never)}
        >
          Full turn
        </button>,
      ];
    case 'twin':
      return [axis(copies.axis), number('Plane at', copies.at, (at) => set({ at } as never))];
    case 'grid':
      return [
        ...triple('counts', ['Across', 'Deep', 'Layers'], copies.counts, true),
        ...triple('step', ['Step x', 'Step y', 'Step z'], copies.step),
      ];
    case 'path':
      return <PathFields copies={copies} set={set} locked={locked} />;
  }
}

function PathFields({
  copies,
  set,
  locked,
}: Omit<Kind, 'copies'> & { copies: Extract<Copies, { kind: 'path' }> }) {
  const bySpacing = copies.spacing != null;
  const points = copies.points;
  const last = points[points.length - 1] as [number, number, number];
  const before = points[points.length - 2] as [number, number, number];
  return (
    <>
      {points.flatMap((point, n) =>
        point.map((value, i) => (
          <NumberField
            // biome-ignore lint/suspicious/noArrayIndexKey: a point has no other name than its number
            key={`${n}${i}`}
            label={`Point ${n + 1} ${'xyz'[i]}`}
            value={value}
            disabled={locked}
            onApply={(v) =>
              set({
                points: points.map((p, m) => (m === n ? p.map((w, k) => (k === i ? v : w)) : p)),
              } as never)
            }
          />
        )),
      )}
      {bySpacing ? (
        <NumberField
          label="Spacing"
          value={copies.spacing as number}
          least={0.001}
          disabled={locked}
          onApply={(spacing) => set({ spacing } as never)}
        />
      ) : (
        <NumberField
          label="Count"
          value={copies.count ?? 2}
          least={2}
          wholeNumber
          disabled={locked}
          onApply={(count) => set({ count } as never)}
        />
      )}
      <button
        type="button"
        className="plain small full-turn"
        disabled={locked}
        onClick={() => set((bySpacing ? { spacing: null, count: 4 } : { spacing: 10, count: null }) as never)}
      >
        {bySpacing ? 'by count' : 'by spacing'}
      </button>
      <label className="quiet check">
        <input
          type="checkbox"
          checked={copies.turn}
          onChange={(e) => set({ turn: e.currentTarget.checked } as never)}
        />{' '}
        turn with it
      </label>
      <label className="quiet check">
        <input
          type="checkbox"
          checked={copies.closed}
          onChange={(e) => set({ closed: e.currentTarget.checked } as never)}
        />{' '}
        closed
      </label>
      <button
        type="button"
        className="plain small full-turn"
        disabled={locked}
        onClick={() =>
          set({ points: [...points, last.map((v, i) => v + (v - (before[i] as number)) / 2)] } as never)
        }
      >
        + point
      </button>
      <button
        type="button"
        className="plain small full-turn"
        disabled={locked || points.length <= (copies.closed ? 3 : 2)}
        onClick={() => set({ points: points.slice(0, -1) } as never)}
      >
        − point
      </button>
    </>
  );
}

/** How many copies, in a word or two, for the recipe. */
export function briefly(copies: Copies): string {
  switch (copies.kind) {
    case 'twin':
      return '×2 twin';
    case 'grid':
      return `×${copies.counts.reduce((a, b) => a * b, 1)} grid`;
    case 'path':
      return copies.count ? `×${copies.count} path` : 'path';
    default:
      return `×${copies.count} ${copies.kind}`;
  }
}
