/** Copies of a part as the page begins and changes them. */
import * as THREE from 'three';
import type { Copies, Part } from '../../api/client';
import { useWork } from '../../api/work';
import type { Open } from '../../controls/PieceFrame';
import { matrixOf } from '../../viewport/meshes';

export type CopiesKind = Copies['kind'];
type PathCopies = Extract<Copies, { kind: 'path' }>;

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

/** The parts whose points copies can follow: limbs and outlines of points, and paths that others follow. */
export function toFollow(open: Open, part: Part): Part[] {
  const drawn = [...open.known.values()].map((k) => k.part).filter((p) => p.id !== part.id);
  return drawn.filter(
    (p) => p.primitive?.kind === 'limb' || (p.primitive?.kind === 'outline' && p.primitive.loops),
  );
}

/** The points of a drawn part as a path in the frame in which another one's copies stand. */
export function pathAlong(open: Open, part: Part, drawn: Part): Pick<PathCopies, 'points' | 'closed'> | null {
  const view = open.state.scene?.parts.find((p) => p.id === drawn.id);
  const form = drawn.primitive;
  if (!view?.drawn_origin || !form) return null;
  const origin = new THREE.Vector3(...view.drawn_origin);
  const frame = matrixOf(view.matrices[0] ?? []);
  const parent = open.known.get(part.id)?.parent;
  const row = parent && open.state.scene?.parts.find((p) => p.id === parent.id)?.matrices[0];
  const back = row ? matrixOf(row).invert() : new THREE.Matrix4();
  const [points, closed] =
    form.kind === 'limb'
      ? [form.points, form.closed ?? false]
      : form.kind === 'outline' && form.loops
        ? [(form.loops[0] ?? []).map(([x, y]) => [x, y, 0]), true]
        : [[], false];
  const put = (p: number[]) =>
    new THREE.Vector3(p[0], p[1], p[2]).sub(origin).applyMatrix4(frame).applyMatrix4(back).toArray();
  return {
    points: points.map((p) => put(p as number[]).map((v) => Number(v.toFixed(4)) + 0)) as never,
    closed,
  };
}
