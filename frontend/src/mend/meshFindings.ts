/** What is wrong with meshes, place by place, as findings in a maker's words. */
import * as THREE from 'three';
import type { Flaw, FlawKind, MeshFindings, PartView } from '../api/client';
import shared from '../api/words.json';
import { plural, short, volume } from '../controls/format';
import type { Known } from '../controls/tree';
import { matrixOf } from '../viewport/meshes';
import type { Finding } from './finding';

type Words = { title: string; detail: (flaw: Flaw) => string; fix: string };

const WORDS: Record<FlawKind, Words> = {
  open_edges: {
    title: 'Crack',
    detail: (f) =>
      plural(f.count, 'open edge') +
      (f.length_mm ? `, ${short(f.length_mm, 1)} mm around, ${short(f.width_mm ?? 0, 1)} mm wide` : ''),
    fix: 'Close it',
  },
  overshared_edges: { title: 'Overshared edge', detail: (f) => plural(f.count, 'edge'), fix: 'Part it' },
  pinched_vertices: { title: 'Pinch', detail: () => 'a single point', fix: 'Part it' },
  flipped_faces: { title: 'Inside-out faces', detail: (f) => plural(f.count, 'face'), fix: 'Turn them' },
  inside_out_bodies: {
    title: 'Inside-out body',
    detail: (f) => volume(Math.abs(f.volume_mm3 ?? 0)),
    fix: 'Turn it',
  },
  degenerate_faces: { title: 'Slivers', detail: (f) => plural(f.count, 'triangle'), fix: 'Turn them' },
  duplicate_faces: { title: 'Doubles', detail: (f) => plural(f.count, 'triangle'), fix: 'Drop them' },
  self_intersections: {
    title: 'Tangle',
    detail: (f) => `${plural(f.count, 'pair')} of triangles cross`,
    fix: 'Untangle its body',
  },
  loose_bodies: { title: 'Loose body', detail: (f) => volume(f.volume_mm3 ?? 0), fix: 'Drop it' },
};

export function listMeshFindings(
  all: MeshFindings[],
  views: PartView[],
  known: Map<string, Known>,
): Finding[] {
  return all.flatMap((mesh) => {
    const view = views.find((v) => v.id === mesh.part);
    const matrix = view?.matrices[0] ? matrixOf(view.matrices[0]) : new THREE.Matrix4();
    const box = view?.box?.map((corner) => new THREE.Vector3(...corner)) as
      | [THREE.Vector3, THREE.Vector3]
      | undefined;
    const name = known.get(mesh.part)?.part.name ?? 'a mesh';
    const scale = Math.cbrt(Math.abs(matrix.determinant()));
    return mesh.flaws.map((told, number): Finding => {
      const flaw = shownAt(told, scale);
      const crumb = flaw.kind === 'loose_bodies' && (flaw.volume_mm3 ?? 0) < shared.limits.crumb_mm3;
      const words = WORDS[flaw.kind];
      const at = new THREE.Vector3(...flaw.at).applyMatrix4(matrix);
      return {
        id: `${mesh.part}-${mesh.sha256.slice(0, 8)}-${number}`,
        kind: crumb ? 'crumb' : flaw.kind,
        severity: flaw.severity,
        title: crumb ? 'Crumb' : words.title,
        detail: all.length > 1 ? `${words.detail(flaw)}, in ${name}` : words.detail(flaw),
        parts: [mesh.part],
        at: [at.x, at.y, at.z],
        reach: flaw.size_mm,
        middle: box ? box[0].clone().add(box[1]).multiplyScalar(0.5) : null,
        meshKey: null,
        drawn: { matrix, lines: flaw.lines, faces: flaw.faces },
        fixes: [{ label: words.fix, flaw: { part: mesh.part, kind: flaw.kind, number } }],
      };
    });
  });
}

/** A flaw's measures as they are where its mesh is shown, so many times as large. */
const shownAt = (flaw: Flaw, scale: number): Flaw => ({
  ...flaw,
  size_mm: flaw.size_mm * scale,
  length_mm: (flaw.length_mm ?? 0) * scale,
  width_mm: (flaw.width_mm ?? 0) * scale,
  volume_mm3: (flaw.volume_mm3 ?? 0) * scale ** 3,
});
