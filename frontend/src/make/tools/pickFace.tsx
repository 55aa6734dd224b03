/** What tools share that wait for a face to be clicked: asking which face it is, and saying what they wait for. */
import type { ReactNode } from 'react';
import type * as THREE from 'three';
import { type Face, said } from '../../api/client';
import { useWork, type Work } from '../../api/work';
import { rayNumbers } from '../../viewport/pointer';
import { useFacePointer } from '../../viewport/useFacePointer';
import { Leave } from './Leave';

/** The face that is clicked, or why there is none, told to the maker. */
export function useFacePick(work: Work, take: (face: Face, ray: THREE.Raycaster) => void) {
  const pick = async (ray: THREE.Raycaster) => {
    try {
      const { eye, direction } = rayNumbers(ray);
      take(await work.face(eye, direction), ray);
    } catch (error) {
      useWork.setState({ refusal: said(error) });
    }
  };
  useFacePointer({ pick: (ray) => void pick(ray) });
}

export function FaceWanted({ label, children }: { label: string; children: ReactNode }) {
  return (
    <section className="panel" aria-label={label}>
      <span>{children}</span>
      <Leave />
    </section>
  );
}
