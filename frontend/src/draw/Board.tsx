/** The drawing board: profiles and outlines, point by point or freehand, with the solid beside it as it comes to be. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { answered, api, type Edit, type Part, type Primitive } from '../api/client';
import { useBackdrop } from '../api/pieces';
import { usePreferences } from '../api/preferences';
import { useWork } from '../api/work';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import type { Live } from '../make/useDragContext';
import { BoardBar } from './BoardBar';
import { dropDrawing, keepDrawing, keptDrawing } from './kept';
import {
  curved,
  type DrawnPoint,
  type Loop,
  loopOfProfile,
  loopsOfHandles,
  loopsOfPoints,
  type Outline,
  outlineOf,
  profileOf,
  type Turned,
} from './nodes';
import type { Chosen } from './places';
import { Sheet } from './Sheet';

export type Tool = 'move' | 'corners' | 'pencil' | 'erase';

type Props = { open: Open; part: Part; live: Live };

/** Whether a part has a drawing that the board can show. */
export const onBoard = (part: Part | undefined): boolean =>
  part?.primitive?.kind === 'turned' || part?.primitive?.kind === 'outline';

export function Board({ open, part, live }: Props) {
  const form = part.primitive as Turned | Outline;
  const profile = form.kind === 'turned';
  const preferences = usePreferences();
  const [loops, setLoops] = useState<Loop[] | null>(null);
  const [chosen, setChosen] = useState<Chosen>(null);
  const [tool, setTool] = useState<Tool>('move');
  const [mirror, setMirror] = useState(false);
  const [wrong, setWrong] = useState<string | null>(null);
  const around = useBackdrop(open.state, part.id) ?? [];
  const sent = useRef('');
  const leave = useEditor((s) => s.set);

  // What the piece says is drawn, also after a step back; what it has not taken stays as the hand left it.
  const said = JSON.stringify(profile ? [form.profile, form.smooth, form.sharp] : [form.loops, form.svg]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another drawing begins anew
  useEffect(() => {
    if (said === sent.current) return;
    const kept = sent.current === '' ? keptDrawing(open.id, part.id) : null;
    sent.current = said;
    let gone = false;
    setWrong(kept ? 'This drawing was not taken yet: it is as you left it.' : null);
    void read(form).then((read) => !gone && setLoops(kept ?? read));
    return () => {
      gone = true;
    };
  }, [said]);

  const shown = useMemo(
    () => (loops && profile ? loops.map((l) => curved(l, true)) : loops),
    [loops, profile],
  );

  const editOf = useCallback(
    (next: Loop[]): Edit => {
      const fields = profile ? profileOf(next[0] as Loop) : outlineOf(next);
      return { kind: 'set_primitive', id: part.id, primitive: { ...form, ...fields } as Primitive };
    },
    [form, part.id, profile],
  );

  /** Kept at once in this browser, and by the piece if it can be built. */
  const keep = async (next: Loop[]) => {
    setLoops(next);
    keepDrawing(open.id, part.id, next);
    const edit = editOf(next);
    const primitive = (edit as Extract<Edit, { kind: 'set_primitive' }>).primitive;
    const values = primitive as unknown as Record<string, unknown>;
    sent.current = JSON.stringify(
      profile ? [values.profile, values.smooth, values.sharp] : [values.loops, values.svg],
    );
    const answer = await open.work.edit(edit);
    live.end();
    if (answer) {
      dropDrawing(open.id, part.id);
      setWrong(null);
      return;
    }
    setWrong(useWork.getState().refusal ?? 'The server does not answer; the drawing is kept here meanwhile.');
    useWork.getState().dismiss();
  };
  /** While the hand moves. */
  const draft = (next: Loop[]) => {
    setLoops(next);
    if (next.every((l) => l.points.length >= 2)) live.show(editOf(next), 'as it is drawn');
  };

  const giveUp = () => {
    dropDrawing(open.id, part.id);
    setWrong(null);
    void read(form).then(setLoops);
  };

  const change = (at: NonNullable<Chosen>, made: (loop: Loop) => Loop) =>
    void keep((loops ?? []).map((l, i) => (i === at.loop ? made(l) : l)));

  return (
    <section className="board" aria-label={profile ? 'Profile' : 'Outline'}>
      <BoardBar
        part={part}
        profile={profile}
        loops={loops ?? []}
        shown={shown ?? []}
        chosen={chosen}
        tool={tool}
        mirror={mirror}
        onTool={setTool}
        onMirror={setMirror}
        onChange={change}
        onLoops={(next) => void keep(next)}
        onChoose={setChosen}
        onDone={() => leave({ tool: 'hand' })}
      />
      {shown && loops && (
        <Sheet
          profile={profile}
          loops={shown}
          drawn={loops}
          chosen={chosen}
          tool={tool}
          mirror={mirror && !profile}
          around={around}
          grid={preferences.grid_mm}
          snapping={preferences.snapping}
          onChoose={setChosen}
          onDraft={draft}
          onKeep={(next) => void keep(next)}
        />
      )}
      {wrong && (
        <p className="wrong" role="alert">
          {wrong}{' '}
          <button type="button" className="bare" onClick={giveUp}>
            Back to what the piece has
          </button>
        </p>
      )}
      <p className="quiet hint">
        {HINTS[tool][profile ? 'profile' : 'outline']}
        {around.length > 0 && ' Hatched: what stands around it.'}
      </p>
    </section>
  );
}

const HINTS: Record<Tool, { profile: string; outline: string }> = {
  move: {
    profile:
      'Drag points; double-click the line for one more. What is drawn turns about the line on the left.',
    outline: 'Drag points and the handles of the chosen one; double-click a line for one more point.',
  },
  corners: {
    profile: 'Click for one more point after the chosen one, or at the end.',
    outline: 'Click corner after corner; click the first, or press Enter, to close.',
  },
  pencil: {
    profile: 'Draw the profile in one go, from the bottom up.',
    outline: 'Draw round in one go; it closes by itself.',
  },
  erase: { profile: 'Rub points away.', outline: 'Rub points away.' },
};

/** The loops that a form says. Path data with curves of other kinds is taken apart by the server. */
async function read(form: Turned | Outline): Promise<Loop[]> {
  if (form.kind === 'turned') return [loopOfProfile(form)];
  if (form.loops) return loopsOfPoints(form.loops as number[][][]);
  const { loops } = await answered<{ loops: Omit<DrawnPoint, 'smooth'>[][] }>(
    api.POST('/api/drawings/points', { body: { svg: form.svg ?? '' } }),
  );
  return loopsOfHandles(loops);
}
