/** What is wrong with meshes, place by place, in a maker's words. */
import * as THREE from 'three';
import type { Flaw, MeshFindings, PartView } from '../api/client';
import { plural, short, volume } from '../controls/format';
import type { Known } from '../controls/tree';
import { matrixOf } from '../viewport/meshes';
import type { Finding } from './findingList';

const WORDS: Record<string, { title: string; about: (flaw: Flaw) => string; grave: boolean }> = {
  open_edges: {
    title: 'Crack',
    about: (f) =>
      `${plural(f.count, 'open edge')}${f.length_mm ? `, ${short(f.length_mm, 1)} long, ${short(f.width_mm ?? 0, 1)} wide` : ''}. A slicer cannot tell what is inside.`,
    grave: true,
  },
  overshared_edges: {
    title: 'Overshared edge',
    about: (f) =>
      `${plural(f.count, 'edge')} where more than two faces meet: walls fuse there, or one is lost.`,
    grave: true,
  },
  pinched_vertices: {
    title: 'Pinch',
    about: () => 'surfaces meet in a single point, which no printer can make.',
    grave: true,
  },
  flipped_faces: {
    title: 'Inside-out faces',
    about: (f) => `${plural(f.count, 'face')} turned against their neighbours: they print as holes.`,
    grave: true,
  },
  inside_out_bodies: {
    title: 'Inside-out body',
    about: () => 'turned the wrong way: solid where it should be hollow, or the other way round.',
    grave: true,
  },
  degenerate_faces: {
    title: 'Slivers',
    about: (f) => `${plural(f.count, 'triangle')} without any area: harmless in print, trouble elsewhere.`,
    grave: false,
  },
  duplicate_faces: {
    title: 'Doubles',
    about: (f) => `${plural(f.count, 'triangle')} lying on others.`,
    grave: true,
  },
  self_intersections: {
    title: 'Tangle',
    about: (f) =>
      `${plural(f.count, 'pair')} of triangles run through each other: inner walls and wrong volume.`,
    grave: true,
  },
  loose_bodies: {
    title: 'Loose body',
    about: (f) => `${volume(f.volume_mm3 ?? 0)}, apart from the rest: it would fall off, or lie inside.`,
    grave: false,
  },
};

export function listMeshFindings(
  all: MeshFindings[],
  views: PartView[],
  known: Map<string, Known>,
): Finding[] {
  return all.flatMap((mesh) => {
    const view = views.find((v) => v.id === mesh.part);
    const matrix = view?.matrices[0] ? matrixOf(view.matrices[0]) : new THREE.Matrix4();
    const name = known.get(mesh.part)?.part.name ?? 'a mesh';
    return mesh.flaws.map((flaw, i): Finding => {
      const words = WORDS[flaw.kind] ?? { title: flaw.kind, about: () => '', grave: true };
      const at = new THREE.Vector3(...flaw.at).applyMatrix4(matrix);
      return {
        id: `${mesh.part}-${mesh.sha256.slice(0, 8)}-${i}`,
        group: words.grave ? 'flaw' : 'loose',
        title: flaw.crumb ? 'Crumb' : words.title,
        about: `${name}: ${words.about(flaw)}`,
        at: [at.x, at.y, at.z],
        reach: flaw.size_mm * new THREE.Vector3().setFromMatrixScale(matrix).x,
        meshKey: null,
        drawn: { matrix, lines: flaw.lines, faces: flaw.faces },
        fix: null,
      };
    });
  });
}
