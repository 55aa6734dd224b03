/** What a joined piece needs, as findings in a maker's words, each with the edits that mend it. */
import * as THREE from 'three';
import type { Need, Needs, Remedy } from '../api/client';
import words from '../api/words.json';
import { short, volume } from '../controls/format';
import type { Known } from '../controls/tree';
import type { Finding, Fix } from './finding';

const IDENTITY = new THREE.Matrix4();

export function listNeeds(needs: Needs, known: Map<string, Known>): Finding[] {
  const name = (id: string | null) => (id && known.get(id)?.part.name) || 'the piece';
  return needs.needs.map((need, i): Finding => {
    const parts = need.other ? [...need.parts, need.other] : need.parts;
    return {
      id: `${need.kind}-${need.parts.join('+')}-${i}`,
      kind: need.kind,
      severity: need.severity,
      ...said(need, name),
      parts: [...new Set(parts)],
      at: need.at,
      reach: need.size_mm,
      middle: null,
      meshKey: need.key,
      drawn: need.faces.length ? { matrix: IDENTITY, lines: [], faces: need.faces } : null,
      fixes: need.remedies.map((remedy) => fix(remedy, changed(remedy, name))),
    };
  });
}

function said(need: Need, name: (id: string | null) => string): { title: string; detail: string } {
  const [first, second] = need.parts.map(name);
  const names =
    need.parts.slice(0, 3).map(name).join(', ') +
    (need.parts.length > 3 ? ` and ${need.parts.length - 3} more` : '');
  const mm = (what: string, digits = 2) => `${short(need.measures[what] ?? 0, digits)} mm`;
  switch (need.kind) {
    case 'loose_body':
    case 'crumb':
      return {
        title: `${need.kind === 'crumb' ? 'Crumb' : 'Loose body'}: ${names}`,
        detail: `${volume(need.measures.volume_mm3 ?? 0)}, ${(need.measures.gap_mm ?? 0) > 1e-5 ? `${mm('gap_mm')} off the rest` : 'it meets the rest only in an edge or point'}`,
      };
    case 'touching':
      return {
        title: `${first} only touches ${name(need.other)}`,
        detail: `along ${need.along === 'face' ? 'a face' : need.along === 'edge' ? 'an edge' : 'a point'}`,
      };
    case 'pinched':
      return { title: `Pinch: ${names}`, detail: `at ${short(need.measures.count ?? 0, 0)} points` };
    case 'thin_wall':
      return {
        title: second
          ? `Between ${first} and ${second}`
          : need.remedies.some((r) => r.how === 'narrow')
            ? `Between copies of ${first}`
            : `In ${first}`,
        detail: `${mm('thickness_mm', 3)} thick, over ${short(need.measures.area_mm2 ?? 0, 1)} mm²`,
      };
    case 'almost_flush':
      return { title: names, detail: `a step of ${mm('step_mm', 4)}` };
  }
}

/** What a remedy changes, in words. */
function changed({ part, edit }: Remedy, name: (id: string) => string): string {
  const others = edit.kind === 'move' ? edit.ids.length - 1 : 0;
  return others ? `${name(part)} and ${others} more` : name(part);
}

function fix(remedy: Remedy, name: string): Fix {
  const by = `${short(remedy.by_mm, 2)} mm`;
  const lines = `two lines, ${words.limits.wall_mm} mm`;
  const fixes: Record<Remedy['how'], { label: string; title: string }> = {
    sink: { label: `Sink ${name} in`, title: `moves it ${by} into its neighbour` },
    widen: { label: `Widen ${name}`, title: `by ${by}, so that it comes right through` },
    narrow: { label: `Narrow ${name}`, title: `by ${by}, which leaves a wall of ${lines}` },
    move: { label: `Move ${name} through`, title: `by ${by}, so that nothing is left between` },
    move_back: { label: `Move ${name} back`, title: `by ${by}, which leaves a wall of ${lines}` },
    thicken: { label: `Thicken ${name}`, title: `by ${by}, to ${lines}` },
    cut_away: { label: 'Cut it away', title: 'with a small cutter around it, which touches nothing else' },
    make_flush: { label: `Make ${name} flush`, title: `moves it ${short(remedy.by_mm, 4)} mm` },
  };
  return { ...fixes[remedy.how], edit: remedy.edit };
}
