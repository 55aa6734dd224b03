/** The join bar: body and tool by name, swap, the three joins, and a note that says what a join does. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { answered, api, type Op, type StepFacts } from '../api/client';
import { usePreferences } from '../api/preferences';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { SIGN } from '../controls/tree';
import { type Actions, sameJoin } from './actions';
import { sayFacts } from './joinNote';

const JOINS: { op: Op; word: string }[] = [
  { op: 'union', word: 'Union' },
  { op: 'difference', word: 'Difference' },
  { op: 'intersection', word: 'Intersection' },
];

export function JoinBar({ open, actions }: { open: Open; actions: Actions }) {
  const chosen = useEditor((s) => s.chosen).filter((id) => open.known.has(id));
  const [hovered, setHovered] = useState<Op | null>(null);
  const preferences = usePreferences();
  const names = chosen.map((id) => open.known.get(id)?.part.name ?? '');
  const join = sameJoin(open, chosen);
  const standing = join && chosen[1] ? open.known.get(chosen[1])?.part.op : undefined;
  const op = hovered ?? standing ?? 'union';
  const oneList = new Set(chosen.map((id) => open.known.get(id)?.parent?.id ?? null)).size === 1;
  const facts = useQuery({
    queryKey: ['facts', open.id, open.state.revision, chosen, op],
    queryFn: () =>
      answered<StepFacts[]>(
        api.POST('/api/pieces/{piece_id}/facts', {
          params: { path: { piece_id: open.id } },
          body: { ids: chosen, op },
        }),
      ),
    enabled: chosen.length >= 2 && oneList,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (last) => last,
  });
  if (chosen.length < 2) return null;
  const tools = names.length === 2 ? names[1] : `${names.length - 1} others`;
  const sink = facts.data?.[0]?.meets;
  return (
    <>
      <output className="note" data-testid="join-note">
        {!oneList
          ? 'These stand in different joins: ungroup first, then join them.'
          : facts.data
            ? sayFacts(facts.data, open.known, hovered !== null || !join)
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
        <b className="names">{names[0]}</b>
        <button
          type="button"
          className="icon-button"
          aria-label="Swap body and tool"
          title="Swap: the other becomes the body"
          onClick={() => void actions.swap()}
        >
          ⇄
        </button>
        <b className="names">{tools}</b>
        {JOINS.map(({ op: o, word }) => (
          <button
            key={o}
            type="button"
            className={`join-op ${o}`}
            disabled={!oneList}
            aria-pressed={standing === o}
            onPointerEnter={() => setHovered(o)}
            onPointerLeave={() => setHovered(null)}
            onFocus={() => setHovered(o)}
            onBlur={() => setHovered(null)}
            onClick={() => void actions.join(o)}
          >
            {SIGN[o]} {word}
          </button>
        ))}
      </div>
    </>
  );
}
