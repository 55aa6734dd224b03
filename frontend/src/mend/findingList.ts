/** What the server found, as a list of single findings in a maker's words. */
import type * as THREE from 'three';
import type { Edit, Needs } from '../api/client';
import { short, volume } from '../controls/format';
import type { Known } from '../controls/tree';

export type Finding = {
  id: string;
  group: 'loose' | 'touch' | 'flaw';
  title: string;
  /** What it does to a print. */
  about: string;
  at: [number, number, number];
  /** How far it reaches, mm, where that is known. */
  reach?: number;
  meshKey: string | null;
  /** Lines and faces to draw, as coordinates in a frame of their own. */
  drawn?: { matrix: THREE.Matrix4; lines: number[]; faces: number[] };
  fix: { label: string; edit: Edit } | null;
};

export function listFindings(needs: Needs, known: Map<string, Known>): Finding[] {
  const name = (id: string | null) => (id && known.get(id)?.part.name) || 'the piece';
  const names = (ids: string[]) =>
    ids.slice(0, 3).map(name).join(', ') + (ids.length > 3 ? ` and ${ids.length - 3} more` : '');
  const loose = needs.loose.map(
    (body, i): Finding => ({
      id: `loose-${i}`,
      group: 'loose',
      title: `${body.crumb ? 'Crumb' : 'Loose body'}: ${names(body.parts)}`,
      about: `${volume(body.volume_mm3)}, ${body.gap > 1e-5 ? `${short(body.gap, 2)} mm off the rest` : 'it meets the rest only in an edge or point'}. It would fall off the print.`,
      at: body.middle,
      meshKey: body.key,
      fix:
        body.part && body.sink
          ? { label: `Sink ${name(body.part)} in`, edit: { kind: 'move', ids: [body.part], by: body.sink } }
          : null,
    }),
  );
  const touch = needs.touches.map(
    (t, i): Finding => ({
      id: `touch-${i}`,
      group: 'touch',
      title: `${name(t.part)} only touches ${name(t.other)}`,
      about: `along ${t.along === 'face' ? 'a face' : t.along === 'edge' ? 'an edge' : 'a point'}, with no overlap: a weak seam, and easily a gap.`,
      at: t.at,
      meshKey: null,
      fix: { label: `Sink ${name(t.part)} in`, edit: { kind: 'move', ids: [t.part], by: t.sink } },
    }),
  );
  return [...loose, ...touch];
}
