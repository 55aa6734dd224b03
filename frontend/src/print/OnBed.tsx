/** The left side of Print: printer, filament, how the piece lies, how many times; and whether it stands. */
import { NavLink } from 'react-router';
import type { Bed, BedState, Lying, Settings } from '../api/printing';
import { ChoiceField } from '../controls/fields/ChoiceField';
import { NumberField } from '../controls/fields/NumberField';
import { plural, short, UNSTEADY } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { BesideIt } from './BesideIt';
import { MakeItStand } from './MakeItStand';
import { StandingPlan } from './StandingPlan';
import { upright, WaysToLie } from './WaysToLie';

type Props = {
  open: Open;
  known: BedState | undefined;
  /** As it lies, or would lie after what is tried out; and as it lies. */
  lies: Lying | undefined;
  kept: Lying | undefined;
  failure: Error | null;
  wrong: Error | null;
  set: (changes: Partial<Bed>) => void;
  tried: string | null;
  tryOut: (how: string, edit: unknown) => void;
};

const named = (profiles: { name: string }[]) => profiles.map(({ name }) => ({ value: name, word: name }));

export function OnBed({ open, known, lies, kept, failure, wrong, set, tried, tryOut }: Props) {
  if (!known) return <aside className="side left" aria-label="On the bed" />;
  const { bed, printers, filaments } = known;
  const printer = printers.find((p) => p.name === bed.printer);
  const settings = (changes: Partial<Settings>) => set({ settings: { ...bed.settings, ...changes } });
  const missing = lies?.fits ? bed.copies - lies.spots.length : 0;
  return (
    <aside className="side left" aria-label="On the bed">
      <div className="pad">
        <h2>On the bed</h2>
        <div className="quiet">
          {printer &&
            `${printer.bed.map((v) => short(v)).join(' × ')} mm, nozzle ${short(printer.nozzle)} mm`}
        </div>
        {wrong && (
          <p className="text-danger mb-0" role="alert">
            {wrong.message}
          </p>
        )}
      </div>
      <div className="section">
        <div className="fields two">
          <ChoiceField
            label="Printer"
            value={bed.printer}
            options={named(printers)}
            onApply={(printer) => set({ printer })}
          />
          <ChoiceField
            label="Filament"
            value={bed.filament}
            options={named(filaments)}
            onApply={(filament) => set({ filament })}
          />
        </div>
        <div className="fields">
          <NumberField
            label="Layer, mm"
            value={bed.settings.layer}
            least={0.02}
            most={1.5}
            title="How thick each layer is: at most 0.8 of the nozzle"
            onApply={(layer) => settings({ layer })}
          />
          <NumberField
            label="Infill, %"
            value={100 * bed.settings.infill}
            least={0}
            most={100}
            title="How much of the inside is filled"
            onApply={(share) => settings({ infill: share / 100 })}
          />
          <NumberField
            label="Walls"
            value={bed.settings.walls}
            least={1}
            most={20}
            wholeNumber
            title="Lines around every layer"
            onApply={(walls) => settings({ walls })}
          />
          <NumberField
            label="Skins"
            value={bed.settings.skins}
            least={0}
            most={100}
            wholeNumber
            title="Full layers under and over what is filled loosely"
            onApply={(skins) => settings({ skins })}
          />
          <NumberField
            label="Support, %"
            value={100 * bed.settings.support}
            least={0}
            most={100}
            title="How much of the room under overhangs is filled; 0 for none"
            onApply={(share) => settings({ support: share / 100 })}
          />
        </div>
        <p className="quiet mt-2 mb-0">
          <NavLink to="/preferences">Printers and filaments</NavLink> are kept among the preferences.
        </p>
      </div>
      <div className="section">
        <h3>How it lies</h3>
        {failure ? (
          <p className="text-danger mb-0">{failure.message}</p>
        ) : !lies ? (
          <p className="quiet mb-0">Laying it down …</p>
        ) : (
          <>
            <p className={lies.fits ? 'mb-1' : 'mb-1 text-danger'}>
              {lies.size.map((v) => short(v, 1)).join(' × ')} mm
              {lies.fits ? '' : ': too large for this printer'}
            </p>
            <div className="fields">
              <NumberField
                label="Height, mm"
                value={lies.size[2]}
                above={0}
                title="Makes all of it as much larger or smaller"
                onApply={(height) => set({ scale: bed.scale * (height / lies.size[2]) })}
              />
              <NumberField
                label="Size, %"
                value={100 * bed.scale}
                least={0.1}
                most={100_000}
                onApply={(percent) => set({ scale: percent / 100 })}
              />
              <NumberField
                label="Turned"
                unit="°"
                value={bed.spin}
                least={-360}
                most={360}
                onApply={(spin) => set({ spin })}
              />
              <NumberField
                label="Copies"
                value={bed.copies}
                least={1}
                most={200}
                wholeNumber
                onApply={(copies) => set({ copies })}
              />
              <NumberField
                label="Apart, mm"
                value={bed.gap}
                least={0.5}
                most={100}
                title="Between copies: leave room for a brim"
                onApply={(gap) => set({ gap })}
              />
            </div>
            {lies.beds > 1 && (
              <p className="mt-2 mb-0" role="status">
                One bed has no room for all of it: it takes {lies.beds} beds, one after another.
              </p>
            )}
            {missing > 0 && (
              <p className="text-danger mt-2 mb-0" role="status">
                There is room for {lies.spots.length}; {plural(missing, 'copy is', 'copies are')} left out.
              </p>
            )}
            <WaysToLie id={open.id} bed={bed} set={set} />
          </>
        )}
      </div>
      {lies && (
        <div className="section">
          <h3>Does it stand?</h3>
          <StandingPlan lies={lies} />
          {kept && kept.tip_angle < UNSTEADY && upright(bed) && (
            <MakeItStand open={open} tried={tried} tryOut={tryOut} />
          )}
        </div>
      )}
      {lies && <BesideIt open={open} bed={bed} lies={lies} set={set} />}
    </aside>
  );
}
