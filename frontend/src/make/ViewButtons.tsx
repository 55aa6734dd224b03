/** Over the view: ways of looking, framing, picking by drawing, and the step that things are caught at. */

import Dropdown from 'react-bootstrap/Dropdown';
import { useShallow } from 'zustand/react/shallow';
import type { Preferences } from '../api/preferences';
import { useEditor } from '../controls/editor';
import { short } from '../controls/format';
import { LOOKS, SURFACES } from '../viewport/looks';
import { over } from '../viewport/room';
import type { Framing, Runners } from './keys';
import { TOOLS } from './tools/registry';

const buttons = (under: 'looks' | 'view' | 'pick') =>
  TOOLS.flatMap(({ name, button }) => (button?.under === under ? [{ name, ...button }] : []));

type Props = { framing: Framing; preferences: Preferences; run: Runners };

export function ViewButtons({ framing, preferences, run }: Props) {
  const { look, surface, set, chosen, cutters } = useEditor(
    useShallow((s) => ({
      look: s.look,
      surface: s.surface,
      set: s.set,
      chosen: s.chosen,
      cutters: s.cutters,
    })),
  );
  return (
    <>
      <div className="looks-row">
        <fieldset className="looks" aria-label="Way of looking">
          {LOOKS.map(({ look: l, word, title, command }) => (
            <button
              key={l}
              type="button"
              aria-pressed={look === l}
              title={title}
              onClick={() => run[command](false)}
            >
              {word}
            </button>
          ))}
        </fieldset>
        <Dropdown>
          <Dropdown.Toggle bsPrefix="plain small" as="button" type="button" title="how its surface is drawn">
            {SURFACES.find((s) => s.surface === surface)?.word} ▾
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {SURFACES.map(({ surface: s, word, title, command }) => (
              <Dropdown.Item key={s} as="button" active={s === surface} onClick={() => run[command](false)}>
                <b>{word}</b> <span className="about">{title}</span>
              </Dropdown.Item>
            ))}
            <Dropdown.Divider />
            <Dropdown.Item as="button" onClick={() => set({ tool: 'picture' })}>
              <b>Take a picture …</b> <span className="about">of the view as it is, as PNG</span>
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
        <ToolButtons under="looks" />
      </div>
      <div className="view-buttons" {...over('top')}>
        <button
          type="button"
          className="plain small"
          title={chosen.length ? 'Shift+Home: frame what is picked' : 'Home: frame all'}
          onClick={chosen.length ? framing.chosen : framing.all}
        >
          {chosen.length ? 'Frame it' : 'Frame all'}
        </button>
        <button
          type="button"
          className="plain small"
          title="K"
          aria-pressed={cutters}
          onClick={() => set({ cutters: !cutters })}
        >
          {cutters ? 'Hide cutters' : 'Show cutters'}
        </button>
        <Dropdown>
          <Dropdown.Toggle
            bsPrefix="plain small"
            as="button"
            type="button"
            title="pick several parts by drawing"
          >
            Pick ▾
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {buttons('pick').map(({ name, word, title }) => (
              <Dropdown.Item key={name} as="button" onClick={() => set({ tool: name })}>
                <b>{word}</b> <span className="quiet">{title}</span>
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
        <ToolButtons under="view" />
        <button
          type="button"
          className="plain small"
          aria-pressed={preferences.snapping}
          title="G: what is dragged is caught by the grid and by other parts; hold F for a free hand"
          onClick={() => run.snapping(false)}
        >
          {preferences.snapping ? `Catch on · ${short(preferences.grid_mm)} mm` : 'Catch off'}
        </button>
      </div>
    </>
  );
}

function ToolButtons({ under }: { under: 'looks' | 'view' }) {
  const set = useEditor((s) => s.set);
  return buttons(under).map(({ name, word, title }) => (
    <button
      key={name}
      type="button"
      className="plain small"
      title={title}
      onClick={() => set({ tool: name })}
    >
      {word}
    </button>
  ));
}
