/** Picking several parts by drawing around them: a box, or a free line. */
import { useEditor } from '../../controls/editor';
import { Around } from '../../viewport/Around';
import { Leave } from './Leave';
import type { ToolProps, ViewTool } from './tool';

export const BOX: ViewTool = {
  name: 'box',
  button: { under: 'pick', word: 'By a box', title: 'drawn around parts · J' },
  OverView: (props) => <Drawing {...props} lasso={false} />,
  Note: () => <DrawingNote what="a box" />,
};

export const LASSO: ViewTool = {
  name: 'lasso',
  button: { under: 'pick', word: 'By a lasso', title: 'a line drawn around parts · L' },
  OverView: (props) => <Drawing {...props} lasso />,
  Note: () => <DrawingNote what="a line" />,
};

function Drawing({ open, view, lasso }: ToolProps & { lasso: boolean }) {
  const scene = open.state.scene;
  return scene && <Around scene={scene} known={open.known} view={view} lasso={lasso} />;
}

function DrawingNote({ what }: { what: string }) {
  const enclosed = useEditor((s) => s.enclosed);
  const set = useEditor((s) => s.set);
  return (
    <section className="panel" aria-label="Pick by drawing">
      <span>
        <b>Draw {what}</b> around what you want to pick
      </span>
      <fieldset className="switch" aria-label="What is picked">
        {[false, true].map((whole) => (
          <button
            key={String(whole)}
            type="button"
            aria-pressed={enclosed === whole}
            onClick={() => set({ enclosed: whole })}
          >
            {whole ? 'wholly inside' : 'touched'}
          </button>
        ))}
      </fieldset>
      <Leave />
    </section>
  );
}
