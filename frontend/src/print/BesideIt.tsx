/** Other pieces of the shelf on the same bed, and all that lies on it as one file. */
import { usePieceCards } from '../api/pieces';
import { type Bed, type Lying, useTakeOutPlate } from '../api/printing';
import { ChoiceField } from '../controls/fields/ChoiceField';
import { NumberField } from '../controls/fields/NumberField';
import { plural } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { AskedFor } from './AskedFor';

type Props = { open: Open; bed: Bed; lies: Lying; set: (changes: Partial<Bed>) => void };

export function BesideIt({ open, bed, lies, set }: Props) {
  const { beside } = bed;
  const there = new Set([open.id, ...beside.map((other) => other.piece)]);
  const more = (usePieceCards(false).data ?? []).filter((card) => !there.has(card.id));
  const alone = beside.length === 0 && bed.copies === 1;
  return (
    <div className="section" data-testid="beside">
      <h3>Beside it</h3>
      {beside.length === 0 && <p className="quiet mb-2">Other pieces may lie on the same bed.</p>}
      {beside.map(({ piece, copies }) => {
        const shown = lies.beside.find((other) => other.piece === piece);
        const name = shown?.name ?? '…';
        const missing = shown?.lies ? copies - shown.lies.spots.length : 0;
        return (
          <div key={piece}>
            <div className="beside-row">
              <NumberField
                label={name}
                value={copies}
                least={1}
                most={200}
                wholeNumber
                title="How many; it lies as its own bed says"
                onApply={(copies) =>
                  set({ beside: beside.map((b) => (b.piece === piece ? { piece, copies } : b)) })
                }
              />
              <button
                type="button"
                className="icon-button"
                aria-label={`Take ${name} off the bed`}
                onClick={() => set({ beside: beside.filter((b) => b.piece !== piece) })}
              >
                ×
              </button>
            </div>
            {shown?.problem && <p className="text-danger mb-1">It cannot lie there: {shown.problem}.</p>}
            {shown?.lies && !shown.lies.fits && (
              <p className="text-danger mb-1">It is too large for this printer.</p>
            )}
            {shown?.lies?.fits && missing > 0 && (
              <p className="text-danger mb-1">{plural(missing, 'finds', 'find')} no room.</p>
            )}
          </div>
        );
      })}
      {more.length > 0 && beside.length < 30 && (
        <ChoiceField
          label="Lay beside it"
          value=""
          options={[
            { value: '', word: 'a piece …' },
            ...more.map(({ id, name }) => ({ value: id, word: name })),
          ]}
          onApply={(piece) => piece && set({ beside: [...beside, { piece, copies: 1 }] })}
        />
      )}
      {!alone && <WholeBed open={open} bed={bed} lies={lies} />}
    </div>
  );
}

function WholeBed({ open, bed, lies }: Omit<Props, 'set'>) {
  const asked = useTakeOutPlate(open.id, open.state.revision, bed, lies);
  const beds = lies.beds > 1 ? `${lies.beds} beds as ` : 'Bed as ';
  return (
    <div className="mt-2">
      <AskedFor asked={asked} word={lies.beds > 1 ? `Write all ${lies.beds} beds` : 'Write the whole bed'}>
        {(job) => (
          <>
            <a className="plain go" href={`/api/jobs/${job}/plate.3mf`} download>
              {beds}3MF
            </a>
            <a className="plain" href={`/api/jobs/${job}/plate.stl`} download>
              {beds}STL
            </a>
          </>
        )}
      </AskedFor>
    </div>
  );
}
