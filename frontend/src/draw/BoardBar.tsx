/** What can be done on the drawing board: tools, the chosen point's numbers, more loops, files in and out. */

import { useRef } from 'react';
import { answered, api, type Part, Refused } from '../api/client';
import { saveBlob } from '../api/takeOut';
import { useWork } from '../api/work';
import { NumberField } from '../controls/fields/NumberField';
import type { Tool } from './Board';
import {
  type DrawnPoint,
  type Loop,
  loopsOfHandles,
  pathOf,
  ready,
  standsOut,
  tidy,
  withArcAfter,
  withSmooth,
} from './nodes';
import { type Chosen, without, withPoint } from './places';

type Props = {
  part: Part;
  profile: boolean;
  loops: Loop[];
  /** With their curves. */
  shown: Loop[];
  chosen: Chosen;
  tool: Tool;
  mirror: boolean;
  onTool: (tool: Tool) => void;
  onMirror: (mirror: boolean) => void;
  onChange: (at: NonNullable<Chosen>, made: (loop: Loop) => Loop) => void;
  onLoops: (loops: Loop[]) => void;
  onChoose: (chosen: Chosen) => void;
  onDone: () => void;
};

const TOOLS: { name: Tool; word: string }[] = [
  { name: 'move', word: 'Move' },
  { name: 'corners', word: 'Add points' },
  { name: 'pencil', word: 'Pencil' },
  { name: 'erase', word: 'Rub out' },
];

export function BoardBar(props: Props) {
  const { part, profile, loops, shown, chosen, tool, mirror, onTool, onChange, onLoops, onChoose } = props;
  const point = chosen ? loops[chosen.loop]?.points[chosen.point] : undefined;
  const file = useRef<HTMLInputElement>(null);
  const put = (values: Partial<DrawnPoint>) =>
    chosen && onLoops(withPoint(loops, chosen, (p) => ({ ...p, ...values })));
  const takeIn = async (text: string) => {
    try {
      const drawing = await answered<{ loops: Omit<DrawnPoint, 'smooth'>[][] }>(
        api.POST('/api/drawings/file', { body: { text } }),
      );
      onLoops(loopsOfHandles(drawing.loops));
    } catch (error) {
      if (error instanceof Refused) useWork.setState({ refusal: error.message });
    }
  };
  return (
    <header>
      <div className="row-1">
        <h2>
          {profile ? 'Profile of' : 'Outline of'} {part.name}
        </h2>
        <button type="button" className="plain small" onClick={props.onDone}>
          Done
        </button>
      </div>
      <div className="row-2">
        <fieldset className="switch" aria-label="Drawing tool">
          {TOOLS.map(({ name, word }) => (
            <button key={name} type="button" aria-pressed={tool === name} onClick={() => onTool(name)}>
              {word}
            </button>
          ))}
        </fieldset>
        {!profile && (
          <>
            <button
              type="button"
              className="plain small"
              aria-pressed={mirror}
              title="what is done on one side of the upright line is done on the other"
              onClick={() => props.onMirror(!mirror)}
            >
              Mirrored
            </button>
            {(['circle', 'square'] as const).map((what) => (
              <button
                key={what}
                type="button"
                className="plain small"
                title="within another it is a hole, within a hole an island"
                onClick={() => onLoops([...loops, ready(what, roomFor(loops), reach(loops))])}
              >
                + {what}
              </button>
            ))}
          </>
        )}
      </div>
      <div className="row-3">
        {point && chosen ? (
          <>
            <NumberField
              label={profile ? 'From the axis' : 'x'}
              value={tidy(point.x)}
              least={profile ? 0 : undefined}
              onApply={(x) => put({ x })}
            />
            <NumberField label={profile ? 'Height' : 'y'} value={tidy(point.y)} onApply={(y) => put({ y })} />
            <button
              type="button"
              className="plain small"
              aria-pressed={point.smooth}
              onClick={() =>
                profile
                  ? put({ smooth: !point.smooth })
                  : onChange(chosen, (l) => withSmooth(l, chosen.point, !point.smooth))
              }
            >
              {point.smooth ? 'Smooth' : 'Corner'}
            </button>
            {!profile && (
              <NumberField
                label="Arc"
                title="How far the stretch to the next point stands out to the left of it, mm; 0 is straight"
                value={standsOut(loops[chosen.loop] as Loop, chosen.point)}
                onApply={(out) => onChange(chosen, (l) => withArcAfter(l, chosen.point, out))}
              />
            )}
            <button
              type="button"
              className="plain small"
              aria-label="Take the point out"
              title="Take the point out (Delete)"
              onClick={() => {
                onLoops(without(loops, chosen));
                onChoose(null);
              }}
            >
              ×
            </button>
          </>
        ) : (
          <>
            <span className="quiet">Click a point to type its place, or to make it smooth.</span>
            {!profile && (
              <span className="files">
                <button type="button" className="plain small" onClick={() => file.current?.click()}>
                  SVG in
                </button>
                <button type="button" className="plain small" onClick={() => save(part.name, shown)}>
                  SVG out
                </button>
                <input
                  ref={file}
                  type="file"
                  accept=".svg,image/svg+xml"
                  hidden
                  aria-label="SVG file"
                  onChange={(e) => {
                    const taken = e.currentTarget.files?.[0];
                    e.currentTarget.value = '';
                    if (taken) void taken.text().then(takeIn);
                  }}
                />
              </span>
            )}
          </>
        )}
      </div>
    </header>
  );
}

function box(loops: Loop[]) {
  const points = loops.flatMap((l) => l.points);
  const xs = points.map((p) => p.x);
  const ys = points.map((p) => p.y);
  return points.length
    ? { left: Math.min(...xs), right: Math.max(...xs), low: Math.min(...ys), high: Math.max(...ys) }
    : { left: -10, right: 10, low: -10, high: 10 };
}

/** Where a new loop has room: a hole in the middle of a single one, else beside them all. */
function roomFor(loops: Loop[]): [number, number] {
  const { left, right, low, high } = box(loops);
  const across = loops.length === 1 ? (left + right) / 2 : right + reach(loops) * 1.5;
  return [across, (low + high) / 2];
}

/** Of a new loop: a hole that leaves room around it. */
function reach(loops: Loop[]): number {
  const { left, right, low, high } = box(loops);
  return Math.max(1, Math.round(Math.min(right - left, high - low) / 6));
}

function save(name: string, loops: Loop[]) {
  const { left, right, low, high } = box(loops);
  const [w, h] = [right - left, high - low];
  // In a drawing y runs down.
  const path = pathOf(loops, (x, y) => `${tidy(x)} ${tidy(-y)}`);
  const text = `<svg xmlns="http://www.w3.org/2000/svg" width="${tidy(w)}mm" height="${tidy(h)}mm" viewBox="${tidy(left)} ${tidy(-high)} ${tidy(w)} ${tidy(h)}"><path fill-rule="evenodd" d="${path}"/></svg>\n`;
  saveBlob(new Blob([text], { type: 'image/svg+xml' }), `${name}.svg`);
}
