/** The command finder: any command or primitive by name. */
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Primitive } from '../api/client';
import { useDrawer } from '../api/drawer';
import { usePresets, usePrimitives } from '../api/pieces';
import { usePreferences } from '../api/preferences';
import { COMMAND_NAMES, COMMANDS, chords } from '../controls/commands';
import { useEditor } from '../controls/editor';
import type { Actions } from './actions';
import type { Runners } from './keys';

type Entry = { key: string; label: string; about: string; chord: string; run: () => unknown };

export function Finder({ runners, actions }: { runners: Runners; actions: Actions }) {
  const open = useEditor((s) => s.finder);
  return open ? <Open runners={runners} actions={actions} /> : null;
}

function Open({ runners, actions }: { runners: Runners; actions: Actions }) {
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const set = useEditor((s) => s.set);
  const primitives = usePrimitives().data;
  const presets = usePresets().data;
  const kept = useDrawer().data;
  const { shortcuts } = usePreferences();
  const list = useRef<HTMLDivElement>(null);
  const entries = useMemo<Entry[]>(() => {
    const keys = chords(shortcuts);
    return [
      ...(primitives ?? []).map((p) => ({
        key: p.kind,
        label: p.label,
        about: `put down: ${p.summary}`,
        chord: '',
        run: () => actions.putDown(p.sample as unknown as Primitive, null),
      })),
      ...(presets ?? []).map((p) => ({
        key: `preset ${p.slug}`,
        label: p.name,
        about: `put down a preset${p.notes ? `: ${p.notes}` : ''}`,
        chord: '',
        run: () => actions.putReady({ preset: p.slug }, null),
      })),
      ...(kept ?? [])
        .filter((card) => !card.problem)
        .map((card) => ({
          key: `kept ${card.id}`,
          label: card.name,
          about: ['put down from your drawer', ...card.tags, card.notes].filter(Boolean).join(' · '),
          chord: '',
          run: () => actions.putReady({ kept: card.id }, null),
        })),
      ...COMMAND_NAMES.filter((n) => n !== 'find').map((name) => ({
        key: name,
        label: COMMANDS[name].label,
        about: COMMANDS[name].group.toLowerCase(),
        chord: keys.get(name) ?? '',
        run: () => runners[name](false),
      })),
    ];
  }, [primitives, presets, kept, shortcuts, runners, actions]);
  const found = useMemo(() => ranked(entries, text), [entries, text]);
  const now = Math.min(at, found.length - 1);

  useEffect(() => {
    list.current?.querySelector(`[data-at="${now}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [now]);

  const close = () => set({ finder: false });
  const run = (entry: Entry | undefined) => {
    if (!entry) return;
    close();
    void entry.run();
  };
  return (
    <div className="finder" role="dialog" aria-label="Find a command or primitive">
      <input
        aria-label="What to find"
        role="combobox"
        aria-expanded="true"
        aria-controls="finder-list"
        aria-activedescendant={found[now] ? `find-${found[now].key}` : undefined}
        placeholder="Find a command or primitive: seat, ring, torus …"
        value={text}
        ref={(input) => input?.focus()}
        onChange={(e) => {
          setText(e.currentTarget.value);
          setAt(0);
        }}
        onBlur={() => setTimeout(close, 150)}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown') setAt(Math.min(now + 1, found.length - 1));
          else if (e.key === 'ArrowUp') setAt(Math.max(now - 1, 0));
          else if (e.key === 'Enter') run(found[now]);
          else if (e.key === 'Escape') close();
          else return;
          e.preventDefault();
        }}
      />
      <div id="finder-list" role="listbox" ref={list} tabIndex={-1}>
        {found.map((entry, i) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the field above has the keys
          <div
            key={entry.key}
            id={`find-${entry.key}`}
            data-at={i}
            role="option"
            tabIndex={-1}
            aria-selected={i === now}
            onClick={() => run(entry)}
          >
            <b>{entry.label}</b> <span className="quiet">{entry.about}</span>
            {entry.chord && <kbd>{entry.chord}</kbd>}
          </div>
        ))}
        {found.length === 0 && <p className="quiet px-3 py-2 mb-0">Nothing is called that.</p>}
      </div>
    </div>
  );
}

/** Entries that hold every word, those that begin with the text first. */
function ranked(entries: Entry[], text: string): Entry[] {
  const wanted = text.toLowerCase().trim();
  const words = wanted.split(/\s+/);
  const holds = (e: Entry) => words.every((w) => `${e.label} ${e.about}`.toLowerCase().includes(w));
  const rank = (e: Entry) =>
    e.label.toLowerCase().startsWith(wanted) ? 0 : e.label.toLowerCase().includes(wanted) ? 1 : 2;
  return entries.filter(holds).sort((a, b) => rank(a) - rank(b));
}
