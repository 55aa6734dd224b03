/** The join bar: bodies and tools by name, swap, the joins, each seen before it is taken, and a note that says what it does. */
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { answered, api, type Op, type StepFacts } from '../api/client';
import { usePreferences } from '../api/preferences';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { parentsOf, SIGN } from '../controls/tree';
import { type Actions, joinEdit, sameJoin } from './actions';
import { sayFacts } from './joinNote';
import type { Live } from './useDragContext';

type Choice = Op | 'split';
const JOINS: { choice: Choice; word: string; sign: string; title: string }[] = [
  { choice: 'union', word: 'Union', sign: SIGN.union, title: 'one body of all' },
  {
    choice: 'difference',
    word: 'Difference',
    sign: SIGN.difference,
    title: 'the tool taken away from the body',
  },
  { choice: 'intersection', word: 'Intersection', sign: SIGN.intersection, title: 'only what both share' },
  {
    choice: 'split',
    word: 'Split',
    sign: '÷',
    title: 'both sides kept: what is outside the tool, and what is inside',
  },
];
const NOT_AT_ONCE_MS = 120;

type Props = { open: Open; actions: Actions; live: Live };

/** Why parts that do not stand in one list cannot be joined. */
function whyNot({ known }: Open, chosen: string[]): string {
  for (const id of chosen) {
    const holder = parentsOf(known, id).find((parent) => chosen.includes(parent));
    const [part, join] = [id, holder ?? ''].map((i) => known.get(i)?.part.name);
    if (holder) return `${part} is a part of ${join} already: pick one or the other.`;
  }
  return 'These stand in different joins: ungroup first, then join them.';
}

/** Numbers that are still listed to choose from. */
const MOST_LISTED = 24;

export function JoinBar({ open, actions, live }: Props) {
  const chosen = useEditor((s) => s.chosen).filter((id) => open.known.has(id));
  const [hovered, setHovered] = useState<Choice | null>(null);
  const [wished, setBodies] = useState(1);
  const bodies = Math.min(wished, Math.max(1, chosen.length - 1));
  const preferences = usePreferences();
  const names = chosen.map((id) => open.known.get(id)?.part.name ?? '');
  const join = sameJoin(open, chosen);
  const standing = join && chosen[1] ? open.known.get(chosen[1])?.part.op : undefined;
  const oneList = new Set(chosen.map((id) => open.known.get(id)?.parent?.id ?? null)).size === 1;
  const choice: Choice = hovered ?? standing ?? 'union';
  const op: Op = choice === 'split' ? 'difference' : choice;
  const facts = useQuery({
    queryKey: ['facts', open.id, open.state.revision, chosen, op, bodies],
    queryFn: () =>
      answered<StepFacts[]>(
        api.POST('/api/pieces/{piece_id}/facts', {
          params: { path: { piece_id: open.id } },
          body: { ids: chosen, op, bodies },
        }),
      ),
    enabled: chosen.length >= 2 && oneList,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (last) => last,
  });
  const picked = chosen.join();
  // Seen before it is taken; a pointer that only passes over asks for nothing.
  // biome-ignore lint/correctness/useExhaustiveDependencies: shown again only for another choice
  useEffect(() => {
    const edit = hovered && oneList && joinEdit(open, chosen, hovered, bodies);
    const word = JOINS.find((j) => j.choice === hovered)?.word;
    if (!edit) return;
    const later = setTimeout(() => live.show(edit, `${word}: this is how it would look`), NOT_AT_ONCE_MS);
    return () => {
      clearTimeout(later);
      live.end();
    };
  }, [hovered, picked, bodies, open.state.revision]);
  if (chosen.length < 2) return null;
  const some = (list: string[]) => (list.length <= 2 ? list.join(' + ') : `${list[0]} + ${list.length - 1}`);
  const sink = facts.data?.[0]?.meets;
  return (
    <>
      <output className="note" data-testid="join-note">
        {!oneList
          ? whyNot(open, chosen)
          : facts.data
            ? sayFacts(facts.data, open.known, hovered !== null || !join, {
                bodies,
                split: choice === 'split',
                body: some(names.slice(0, bodies)),
              })
            : 'Working it out …'}
        {oneList &&
          chosen.length === 2 &&
          sink &&
          (sink.relation === 'touching' || sink.relation === 'apart') &&
          sink.direction && (
            <button
              type="button"
              className="plain"
              onClick={() =>
                void actions.adjust({
                  kind: 'sink',
                  ids: [chosen[1] as string],
                  into: chosen[0] as string,
                  depth: preferences.sink_mm,
                })
              }
            >
              Sink {names[1]} in
            </button>
          )}
      </output>
      <div className="join-bar" role="toolbar" aria-label="Join">
        <span className="quiet">Join</span>
        <b className="names">{some(names.slice(0, bodies))}</b>
        {names.length > 2 && <Bodies most={names.length - 1} value={bodies} onChange={setBodies} />}
        <button
          type="button"
          className="icon-button"
          aria-label="Swap body and tool"
          title="Swap: the other becomes the body"
          onClick={() => void actions.swap()}
        >
          ⇄
        </button>
        <b className="names">{some(names.slice(bodies))}</b>
        {JOINS.map(({ choice: c, word, sign, title }) => (
          <button
            key={c}
            type="button"
            className={`join-op ${c}`}
            title={title}
            disabled={!oneList}
            aria-pressed={standing === c}
            onPointerEnter={() => setHovered(c)}
            onPointerLeave={() => setHovered(null)}
            onFocus={() => setHovered(c)}
            onBlur={() => setHovered(null)}
            onClick={() => {
              setHovered(null);
              void actions.join(c, bodies);
            }}
          >
            {sign} {word}
          </button>
        ))}
      </div>
    </>
  );
}

/** How many of those picked first are the body: chosen from a list, typed where that would be a long one. */
function Bodies({ most, value, onChange }: { most: number; value: number; onChange: (n: number) => void }) {
  const about = {
    'aria-label': 'How many are the body',
    title: 'how many of those picked first are the body; the others are tools',
    value,
  };
  if (most > MOST_LISTED) {
    const typed = (text: string) => onChange(Math.min(most, Math.max(1, Math.round(Number(text)) || 1)));
    return (
      <input type="number" min={1} max={most} {...about} onChange={(e) => typed(e.currentTarget.value)} />
    );
  }
  return (
    <select {...about} onChange={(e) => onChange(Number(e.currentTarget.value))}>
      {Array.from({ length: most }, (_, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: numbers, always the same
        <option key={i} value={i + 1}>
          {i + 1} {i ? 'bodies' : 'body'}
        </option>
      ))}
    </select>
  );
}
