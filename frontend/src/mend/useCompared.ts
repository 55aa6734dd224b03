/** The meshes before and after the last mending that the piece still has, and how far they moved. */
import { useQuery } from '@tanstack/react-query';
import type { Job, Scene } from '../api/client';
import { compareJob } from '../api/jobs';
import { farthest, useMoved } from './MeshParts';

export function useCompared(scene: Scene | null, jobs: Job[]) {
  const mended = jobs.find((j) => j.kind === 'mend' && j.state === 'done');
  const told = useQuery({
    queryKey: ['compare', mended?.id],
    queryFn: () => compareJob(mended?.id ?? ''),
    enabled: mended !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
  const pairs =
    told?.filter((pair) => scene?.parts.some((v) => v.id === pair.part && v.key === pair.after)) ?? [];
  const moved = useMoved(pairs);
  return { pairs, moved, most: farthest(moved) };
}

export type ComparedMeshes = ReturnType<typeof useCompared>;
