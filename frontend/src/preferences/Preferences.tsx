/** Preferences: steps and catching, printers and filaments, and the shortcuts of every command; kept on the server. */
import { useNavigate } from 'react-router';
import { PLAIN, useKeepPreferences, usePreferences, type Preferences as Values } from '../api/preferences';
import { Failed } from '../controls/Failed';
import { NumberField } from '../controls/fields/NumberField';
import { useTitle } from '../controls/useTitle';
import { Profiles } from './Profiles';
import { Shortcuts } from './Shortcuts';

const { grid_mm, turn_deg, sink_mm, snapping } = PLAIN;
const STEPS = { grid_mm, turn_deg, sink_mm, snapping };

export function Preferences() {
  useTitle('Preferences');
  const values = usePreferences();
  const keep = useKeepPreferences();
  const navigate = useNavigate();
  const set = (changes: Partial<Values>) => keep.mutate({ ...values, ...changes });
  return (
    <div className="app">
      <header className="top">
        <div className="brand">
          <img src="/seal.svg" alt="" />
          <h1 className="name">Preferences</h1>
        </div>
        <span />
        <div className="top-right">
          <button type="button" className="plain go" onClick={() => navigate(-1)}>
            Back
          </button>
        </div>
      </header>
      {keep.error ? <Failed error={keep.error} dismiss={keep.reset} /> : <span />}
      <main className="preferences">
        <div>
          <section aria-label="Steps">
            <h2>Steps</h2>
            <div className="fields">
              <NumberField
                label="Grid, mm"
                value={values.grid_mm}
                least={0.01}
                most={100}
                onApply={(grid_mm) => set({ grid_mm })}
              />
              <NumberField
                label="Turn by"
                unit="°"
                value={values.turn_deg}
                least={0.1}
                most={180}
                onApply={(turn_deg) => set({ turn_deg })}
              />
              <NumberField
                label="Sink in, mm"
                value={values.sink_mm}
                least={0.01}
                most={100}
                onApply={(sink_mm) => set({ sink_mm })}
              />
            </div>
            <label className="mt-3 d-block">
              <input
                type="checkbox"
                checked={values.snapping}
                onChange={(e) => set({ snapping: e.currentTarget.checked })}
              />{' '}
              what is dragged is caught by the grid and by other parts (hold F for a free hand)
            </label>
            <button type="button" className="plain small mt-3" onClick={() => set(STEPS)}>
              Steps as they were at first
            </button>
          </section>
          <section aria-label="Glazes" className="mt-4">
            <h2>Glazes</h2>
            <p className="quiet">Where parts of different glaze run together softly, the view shows</p>
            <Ways
              of="glazes"
              value={values.glazes}
              set={(glazes) => set({ glazes })}
              ways={[
                ['line', 'a clean line through the middle of the run, as in the files'],
                ['mixed', 'one glaze running over into the other'],
              ]}
            />
          </section>
          <section aria-label="Contact shade" className="mt-4">
            <h2>Contact shade</h2>
            <p className="quiet">Creases, and what stands close over something, are drawn darker</p>
            <Ways
              of="contact shade"
              value={values.contact_shade}
              set={(contact_shade) => set({ contact_shade })}
              ways={[
                ['quick', 'where a graphics card draws the view'],
                ['always', 'on every machine, once the view rests'],
                ['never', 'never'],
              ]}
            />
          </section>
          <Profiles values={values} set={set} />
        </div>
        <Shortcuts own={values.shortcuts} onChange={(shortcuts) => set({ shortcuts })} />
      </main>
    </div>
  );
}

type WaysProps<V extends string> = {
  of: string;
  value: V;
  set: (value: V) => void;
  /** Each with what is said of it. */
  ways: [V, string][];
};

function Ways<V extends string>({ of, value, set, ways }: WaysProps<V>) {
  return ways.map(([way, said]) => (
    <label key={way} className="d-block">
      <input type="radio" name={of} checked={value === way} onChange={() => set(way)} /> {said}
    </label>
  ));
}
