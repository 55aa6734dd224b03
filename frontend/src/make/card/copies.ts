/** Copies of a part as the page begins and changes them. */
import type { Copies } from '../../api/client';
import { useWork } from '../../api/work';
import type { Open } from '../../controls/PieceFrame';

export type CopiesKind = Copies['kind'];

/** Gives each chosen part copies of a kind, beginning with steps that fit its size. */
export function beginCopies(open: Open, chosen: string[], kind: CopiesKind) {
  const ids = chosen.filter((id) => open.known.has(id));
  for (const id of ids) void setCopies(open, id, first(open, id, kind));
  if (!ids.length) useWork.setState({ refusal: 'Pick the part that shall have copies first.' });
}

export const setCopies = (open: Open, id: string, copies: Copies | null) =>
  open.work.edit({ kind: 'set_part', ids: [id], fields: { copies } as never });

/** Copies of a kind that stand clear of one another. */
export function first(open: Open, id: string, kind: CopiesKind): Copies {
  const view = open.state.scene?.parts.find((p) => p.id === id);
  const [low, high] = view?.box ?? [
    [0, 0, 0],
    [10, 10, 10],
  ];
  const part = open.known.get(id)?.part;
  const [x, y, z] = part?.place.position ?? [0, 0, 0];
  const wide = Math.ceil((high[0] as number) - (low[0] as number)) + 2;
  const deep = Math.ceil((high[1] as number) - (low[1] as number)) + 2;
  switch (kind) {
    case 'row':
      return { kind, count: 3, step: [wide, 0, 0] };
    case 'ring':
      return {
        kind,
        count: 6,
        axis: 'z',
        angle: 60,
        centre: Math.hypot(x, y) < 1e-6 ? [-wide, 0, 0] : [0, 0, 0],
        rise: 0,
      };
    case 'twin':
      return { kind, axis: 'x', at: Math.abs(x) < 1e-6 ? x + wide : 0 };
    case 'grid':
      return { kind, counts: [2, 2, 1], step: [wide, deep, 0] };
    case 'path':
      return {
        kind,
        points: [
          [x, y, z],
          [x + 2 * wide, y + wide, z],
          [x + 4 * wide, y, z],
        ],
        count: 4,
        closed: false,
        turn: false,
      };
  }
}
