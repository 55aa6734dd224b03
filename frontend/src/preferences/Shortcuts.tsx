/** Every command with its shortcut: click one and press the new keys; a conflict is told before it is made. */
import { useState } from 'react';
import { chordOf } from '../controls/chords';
import { COMMAND_NAMES, COMMANDS, type CommandName, chords } from '../controls/commands';

type Own = Record<string, string>;
type Clash = { name: CommandName; chord: string; other: CommandName };

/** `own` with a command's chord; what is as at first is not written down. */
function withChord(own: Own, name: CommandName, chord: string): Own {
  const { [name]: _, ...rest } = own;
  return chord === COMMANDS[name].chord ? rest : { ...rest, [name]: chord };
}

export function Shortcuts({ own, onChange }: { own: Own; onChange: (own: Own) => void }) {
  const [asking, setAsking] = useState<CommandName | null>(null);
  const [clash, setClash] = useState<Clash | null>(null);
  const all = chords(own);
  const groups = [...new Set(COMMAND_NAMES.map((n) => COMMANDS[n].group))];

  const shown = (name: CommandName) => (asking === name ? 'press keys …' : all.get(name) || 'none');

  const press = (e: React.KeyboardEvent, name: CommandName) => {
    const chord = chordOf(e.nativeEvent);
    if (!chord || chord === 'Tab') return;
    e.preventDefault();
    e.stopPropagation();
    setAsking(null);
    if (chord === 'Esc' && name !== 'let-go') return;
    const other = COMMAND_NAMES.find((n) => n !== name && all.get(n) === chord);
    if (other) setClash({ name, chord, other });
    else onChange(withChord(own, name, chord));
  };
  return (
    <section aria-label="Shortcuts">
      <h2>Shortcuts</h2>
      <p className="quiet">Click a shortcut and press the keys you want. Esc leaves it as it is.</p>
      {clash && (
        <div className="notice" role="alert">
          <span>
            <kbd>{clash.chord}</kbd> is the shortcut of <b>{COMMANDS[clash.other].label}</b> already.
          </span>
          <button
            type="button"
            className="plain small"
            onClick={() => {
              onChange(withChord(withChord(own, clash.other, ''), clash.name, clash.chord));
              setClash(null);
            }}
          >
            Give it to {COMMANDS[clash.name].label}
          </button>
          <button type="button" className="plain small" onClick={() => setClash(null)}>
            Leave it
          </button>
        </div>
      )}
      <div className="shortcuts">
        {groups.map((group) => (
          <div key={group}>
            <h3>{group}</h3>
            {COMMAND_NAMES.filter((n) => COMMANDS[n].group === group).map((name) => (
              <div key={name} className="shortcut">
                <span>{COMMANDS[name].label}</span>
                <button
                  type="button"
                  className="chord"
                  aria-label={`${shown(name)}: shortcut of ${COMMANDS[name].label}`}
                  aria-pressed={asking === name}
                  onClick={() => setAsking(name)}
                  onBlur={() => setAsking(null)}
                  onKeyDown={(e) => asking === name && press(e, name)}
                >
                  {shown(name)}
                </button>
                {name in own && (
                  <button
                    type="button"
                    className="bare quiet"
                    onClick={() => onChange(withChord(own, name, COMMANDS[name].chord))}
                  >
                    as at first
                  </button>
                )}
              </div>
            ))}
          </div>
        ))}
      </div>
      <button type="button" className="plain small mt-3" onClick={() => onChange({})}>
        All shortcuts as at first
      </button>
    </section>
  );
}
