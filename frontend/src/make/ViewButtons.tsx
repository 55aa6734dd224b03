/** Over the view: ways of looking, framing, picking by drawing, and the step that things are caught at. */
import type { Preferences } from '../api/preferences';
import { type Look, useEditor } from '../controls/editor';
import { short } from '../controls/format';
import type { Framing, Runners } from './keys';

const LOOKS: { look: Look; word: string; title: string }[] = [
  { look: 'result', word: 'Result', title: 'the joined skin, cutters dotted' },
  { look: 'parts', word: 'Parts', title: 'every part whole' },
  { look: 'xray', word: 'X-ray', title: 'see through the skin' },
  { look: 'section', word: 'Section', title: 'cut open by a plane: walls, hollows, blends' },
];

const LOOK_COMMAND = {
  result: 'look-result',
  parts: 'look-parts',
  xray: 'look-xray',
  section: 'look-section',
} as const;

type Props = { framing: Framing; preferences: Preferences; run: Runners };

export function ViewButtons({ framing, preferences, run }: Props) {
  const { look, set, chosen, cutters } = useEditor();
  return (
    <>
      <fieldset className="looks" aria-label="Way of looking">
        {LOOKS.map(({ look: l, word, title }) => (
          <button
            key={l}
            type="button"
            aria-pressed={look === l}
            title={title}
            onClick={() => run[LOOK_COMMAND[l]](false)}
          >
            {word}
          </button>
        ))}
      </fieldset>
      <div className="view-buttons">
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
        <button
          type="button"
          className="plain small"
          title="B: draw a box around parts"
          onClick={() => set({ tool: 'box' })}
        >
          Box
        </button>
        <button
          type="button"
          className="plain small"
          title="L: draw a line around parts"
          onClick={() => set({ tool: 'lasso' })}
        >
          Lasso
        </button>
        <button
          type="button"
          className="plain small"
          title="W: make a face the floor for a while"
          onClick={() => set({ tool: 'face' })}
        >
          Work on a face
        </button>
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
