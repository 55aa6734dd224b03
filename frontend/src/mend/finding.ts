/** A single finding in a maker's words, and what can be done about it. */
import type * as THREE from 'three';
import type { Edit, FlawKind, Severity } from '../api/client';
import words from '../api/words.json';

/** Mends something: an edit of the recipe, or a job about a mesh. number: which flaw; null for all of the kind. */
export type Fix = { label: string; title?: string } & (
  | { edit: Edit }
  | { flaw: { part: string; kind: FlawKind; number: number | null } }
);

export type Finding = {
  id: string;
  kind: string;
  severity: Severity;
  title: string;
  detail: string;
  /** The parts concerned. */
  parts: string[];
  at: [number, number, number];
  /** How far it reaches, mm. */
  reach: number;
  /** The middle of the body that it is on the outside of, if it is. */
  middle: THREE.Vector3 | null;
  meshKey: string | null;
  /** Lines and faces to draw, as coordinates in a frame of their own. */
  drawn: { matrix: THREE.Matrix4; lines: number[]; faces: number[] } | null;
  fixes: Fix[];
};

export type FindingGroup = {
  kind: string;
  title: string;
  about: string;
  severity: Severity;
  findings: Finding[];
};

export const SEVERITY_WORDS: Record<Severity, string> = {
  breaks: 'breaks the print',
  spoils: 'spoils the print',
  harmless: 'harmless',
};

/** What findings of a kind are called, and what they do to a print. */
const KINDS: Record<string, { title: string; about: string }> = words.kinds;

/** Findings of one kind together, what breaks a print first. */
export function grouped(findings: Finding[]): FindingGroup[] {
  const groups = new Map<string, FindingGroup>();
  for (const finding of findings) {
    const { kind, severity } = finding;
    const words = KINDS[kind] ?? { title: kind, about: '' };
    const group = groups.get(kind) ?? { kind, severity, ...words, findings: [] };
    groups.set(kind, { ...group, findings: [...group.findings, finding] });
  }
  const order: Severity[] = ['breaks', 'spoils', 'harmless'];
  return [...groups.values()].sort((a, b) => order.indexOf(a.severity) - order.indexOf(b.severity));
}

/** One fix for a whole group of findings in a mesh; none where one finding is all, or they are in several meshes. */
export function fixForAll(group: FindingGroup): Fix | null {
  const flaws = group.findings
    .flatMap((f) => f.fixes.slice(0, 1))
    .flatMap((f) => ('flaw' in f ? [f.flaw] : []));
  const [first] = flaws;
  if (!first || flaws.length < 2 || flaws.some((f) => f.part !== first.part)) return null;
  return { label: `Mend all ${flaws.length}`, flaw: { ...first, number: null } };
}

/** The first edit of each finding in the recipe as one step; none where there are fewer than two. */
export function recipeFix(findings: Finding[]): Fix | null {
  const edits = findings.flatMap((f) => f.fixes.slice(0, 1)).flatMap((f) => ('edit' in f ? [f.edit] : []));
  const single = new Map(edits.map((edit) => [JSON.stringify(touched(edit)), edit]));
  if (single.size < 2) return null;
  const steps = [...single.values()] as Extract<Edit, { kind: 'several' }>['edits'];
  return { label: `Mend all ${single.size}`, edit: { kind: 'several', how: 'Mended', edits: steps } };
}

/** What an edit is about: of two about the same part only one is done. */
function touched(edit: Edit): unknown {
  return edit.kind === 'move' ? edit.ids : edit.kind === 'resize' ? [edit.id] : edit;
}
