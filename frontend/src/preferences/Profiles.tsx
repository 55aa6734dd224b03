/** Printers and filaments: what pieces are printed with, each with the numbers that a rehearsal goes by. */
import { useState } from 'react';
import type { Preferences } from '../api/preferences';
import type { Filament, Printer } from '../api/printing';
import { NumberField } from '../controls/fields/NumberField';
import { NameField } from '../controls/NameField';

type Props = { values: Preferences; set: (changes: Partial<Preferences>) => void };

export function Profiles({ values, set }: Props) {
  const printers = values.printers as Printer[];
  const filaments = values.filaments as Filament[];
  return (
    <>
      <List
        title="Printers"
        all={printers}
        keep={(printers) => set({ printers })}
        fields={(printer, change) => (
          <>
            {(['Wide', 'Deep', 'High'] as const).map((word, i) => (
              <NumberField
                key={word}
                label={`${word}, mm`}
                value={printer.bed[i] as number}
                above={0}
                most={100_000}
                onApply={(v) =>
                  change({ bed: printer.bed.map((b, k) => (k === i ? v : b)) as Printer['bed'] })
                }
              />
            ))}
            <NumberField
              label="Nozzle, mm"
              value={printer.nozzle}
              least={0.1}
              most={2}
              onApply={(nozzle) => change({ nozzle })}
            />
            <NumberField
              label="Outer wall, mm/s"
              value={printer.outer_speed}
              above={0}
              onApply={(outer_speed) => change({ outer_speed })}
            />
            <NumberField
              label="The rest, mm/s"
              value={printer.speed}
              above={0}
              onApply={(speed) => change({ speed })}
            />
            <NumberField
              label="Travel, mm/s"
              value={printer.travel_speed}
              above={0}
              onApply={(travel_speed) => change({ travel_speed })}
            />
            <NumberField
              label="Acceleration"
              title="mm/s²"
              value={printer.acceleration}
              above={0}
              onApply={(acceleration) => change({ acceleration })}
            />
          </>
        )}
      />
      <List
        title="Filaments"
        all={filaments}
        keep={(filaments) => set({ filaments })}
        fields={(filament, change) => (
          <>
            <NumberField
              label="Diameter, mm"
              value={filament.diameter}
              least={1}
              most={4}
              onApply={(diameter) => change({ diameter })}
            />
            <NumberField
              label="Density, g/cm³"
              value={filament.density}
              above={0.1}
              most={20}
              onApply={(density) => change({ density })}
            />
            <NumberField
              label="Price of a kg"
              value={filament.price}
              least={0}
              most={100_000}
              onApply={(price) => change({ price })}
            />
          </>
        )}
      />
    </>
  );
}

type ListProps<Profile> = {
  title: string;
  all: Profile[];
  keep: (all: Profile[]) => void;
  fields: (profile: Profile, change: (changes: Partial<Profile>) => void) => React.ReactNode;
};

function List<Profile extends { name: string }>({ title, all, keep, fields }: ListProps<Profile>) {
  const [open, setOpen] = useState(0);
  const chosen = Math.min(open, all.length - 1);
  const profile = all[chosen];
  const change = (changes: Partial<Profile>) =>
    keep(all.map((p, i) => (i === chosen ? { ...p, ...changes } : p)));
  const taken = (name: string) => all.some((p) => p.name.toLowerCase() === name.toLowerCase());
  const more = () => {
    if (!profile) return;
    let n = 2;
    while (taken(`${profile.name} ${n}`)) n++;
    keep([...all, { ...profile, name: `${profile.name} ${n}` }]);
    setOpen(all.length);
  };
  return (
    <section aria-label={title} className="mt-4 profiles">
      <h2>{title}</h2>
      <fieldset className="switch" aria-label={title}>
        {all.map((p, i) => (
          <button key={p.name} type="button" aria-pressed={i === chosen} onClick={() => setOpen(i)}>
            {p.name}
          </button>
        ))}
      </fieldset>
      {profile && (
        <>
          <div className="profile-name">
            <NameField
              className="name"
              label={`Name of the ${title.toLowerCase().slice(0, -1)}`}
              name={profile.name}
              onRename={(name) => {
                if (!taken(name)) change({ name } as Partial<Profile>);
              }}
            />
            <button type="button" className="plain small" onClick={more}>
              Another like it
            </button>
            <button
              type="button"
              className="plain small"
              disabled={all.length < 2}
              title={all.length < 2 ? 'One must stay' : undefined}
              onClick={() => keep(all.filter((_, i) => i !== chosen))}
            >
              Remove
            </button>
          </div>
          <div className="fields">{fields(profile, change)}</div>
        </>
      )}
    </section>
  );
}
