/** The Print stage's data: the bed, how the piece lies on it, and what looking it over has found. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answered, api, askAgain, type Job, pauseBefore } from './client';
import type { components } from './generated';
import { useJobs } from './jobs';

type Schemas = components['schemas'];
/** How a piece lies, every field of it said. */
export type Bed = Required<Omit<Schemas['Bed'], 'settings' | 'cut' | 'beside'>> & {
  settings: Settings;
  cut: CutLines;
  beside: Required<Schemas['Beside']>[];
};
export type CutLines = Required<Schemas['CutLines']>;
export type Settings = Required<Schemas['Settings']>;
export type Printer = Required<Schemas['Printer']>;
export type Filament = Required<Schemas['Filament']>;
export type BedState = { bed: Bed; printers: Printer[]; filaments: Filament[] };
export type Lying = Schemas['Lying'];
export type Spots = Schemas['Spots'];
export type PrintDetails = Schemas['PrintDetails'];
export type Steadying = Schemas['SteadyingAnswer'];
export type Place = Schemas['PlaceAnswer'];

/** What a print check says in figures. */
export type Checked = {
  /** How far it may be tipped as it is filled; not told by earlier checks. */
  printed_tip_angle_deg?: number;
  overhang_mm2: number;
  islands: number;
  thinnest_mm: number | null;
  thin_mm2: number;
  layers: number;
  filament_mm: number;
  mass_g: number;
  seconds: number;
  uncertainty: number;
  rehearsal: { support: number; cost: number };
};

/** What cutting gave, as the job says it. */
export type CutParts = {
  parts: {
    volume_mm3: number;
    bounds: [[number, number, number], [number, number, number]];
    bodies: number;
    sound: boolean;
    pegs: number;
    sockets: number;
  }[];
  least_gap_mm: number | null;
  greatest_gap_mm: number | null;
  goes_together: boolean;
};

/** A way to lie, as `orientations` in the core has it. */
export type WayToLie = {
  down: [number, number, number];
  support: number;
  overhang: number;
  height: number;
  rests_on: number;
  neck: number;
  best_for: string[];
};

const bedKey = (id: string) => ['bed', id];
const path = (id: string) => ({ params: { path: { piece_id: id } } });

export function useBed(id: string) {
  return useQuery({
    queryKey: bedKey(id),
    queryFn: () => answered<BedState>(api.GET('/api/pieces/{piece_id}/bed', path(id))),
    enabled: id !== '',
    retry: askAgain,
    retryDelay: pauseBefore,
    // Profiles may have changed among the preferences.
    refetchOnMount: 'always',
  }).data;
}

/** Keeps how the piece lies; what is refused leaves all as it was. */
export function useKeepBed(id: string) {
  const client = useQueryClient();
  const mutationKey = ['keep-bed', id];
  return useMutation({
    mutationKey,
    // One after the other, so that what is kept at last is what was said last.
    scope: { id: mutationKey.join() },
    mutationFn: (bed: Bed) =>
      answered<BedState>(api.PUT('/api/pieces/{piece_id}/bed', { ...path(id), body: bed })),
    // Shown at once: the next change is made on this one.
    onMutate: (bed) => client.setQueryData<BedState>(bedKey(id), (now) => (now ? { ...now, bed } : now)),
    onSuccess: (kept) => {
      if (client.isMutating({ mutationKey }) === 1) client.setQueryData(bedKey(id), kept);
    },
    onError: () => client.invalidateQueries({ queryKey: bedKey(id) }),
  });
}

/** Where the piece lies with this bed; the last answer stays in sight while a new one is on its way. */
export function useLying(id: string, revision: number | undefined, bed: Bed | undefined) {
  return useQuery({
    queryKey: ['lying', id, revision, bed],
    queryFn: () => answered<Lying>(api.POST('/api/pieces/{piece_id}/lie', path(id))),
    enabled: revision !== undefined && bed !== undefined,
    placeholderData: (last, query) => (query?.queryKey[1] === id ? last : undefined),
    retry: askAgain,
    retryDelay: pauseBefore,
  });
}

/** The same as it would be after an edit that is tried out. */
export function useTriedOut(id: string, revision: number | undefined, bed: Bed | undefined, edit: unknown) {
  return useQuery({
    queryKey: ['tried-out', id, revision, bed, edit],
    queryFn: () =>
      answered<Lying>(
        api.POST('/api/pieces/{piece_id}/lie', {
          ...path(id),
          body: { edit: edit as Steadying['edit'] },
        }),
      ),
    enabled: revision !== undefined && bed !== undefined && edit !== null,
    retry: askAgain,
    retryDelay: pauseBefore,
  });
}

/** A job of this page, followed to its end. */
function useFollowed(job: Job | undefined): Job | undefined {
  const all = useJobs().data;
  return all?.find((j) => j.id === job?.id) ?? job;
}

/** Looks the piece over as it lies; again, where that was stopped. What many copies of it share is found out once. */
export function usePrintCheck(id: string, revision: number | undefined, bed: Bed | undefined) {
  const alike = bed && { ...bed, copies: 1, gap: 1, cut: null, beside: null };
  const asked = useQuery({
    queryKey: ['print-check', id, revision, alike],
    queryFn: () => answered<Job>(api.POST('/api/pieces/{piece_id}/print-check', path(id))),
    enabled: revision !== undefined && bed !== undefined,
    retry: askAgain,
    retryDelay: pauseBefore,
    gcTime: 0,
    refetchOnMount: 'always',
  });
  return { job: useFollowed(asked.data), again: () => void asked.refetch() };
}

/** What would make the piece stand better, as it was made. */
export function useSteadyings(id: string, revision: number, enabled: boolean) {
  return useQuery({
    queryKey: ['steadyings', id, revision],
    queryFn: () => answered<Steadying[]>(api.GET('/api/pieces/{piece_id}/steadyings', path(id))),
    enabled,
    retry: askAgain,
    retryDelay: pauseBefore,
  });
}

type Asking = () => Promise<Job>;
export type AskedJob = ReturnType<typeof useAskedJob>;

/** A job that the maker asks for. of: what it is about; of anything else it is out of date. */
function useAskedJob(of: string, asking: Asking) {
  const ask = useMutation({ mutationFn: async () => ({ of, job: await asking() }) });
  const job = useFollowed(ask.data?.of === of ? ask.data.job : undefined);
  return { ask: ask.mutate, waiting: ask.isPending, error: ask.error, job };
}

/** Writes the making-of sheet when it is asked for. */
export const useMakingOf = (id: string, revision: number) =>
  useAskedJob(String(revision), () => answered(api.POST('/api/pieces/{piece_id}/making-of', path(id))));

export type Turning = components['schemas']['Turning'];

/** Draws the piece from all sides when it is asked for. */
export const useTurntable = (id: string, revision: number, turning: Turning) =>
  useAskedJob(JSON.stringify([revision, turning]), () =>
    answered(api.POST('/api/pieces/{piece_id}/turntable', { ...path(id), body: turning })),
  );

/** Divides the piece into a body for each of its glazes when it is asked for. */
export const useByGlaze = (id: string, revision: number) =>
  useAskedJob(String(revision), () => answered(api.POST('/api/pieces/{piece_id}/by-glaze', path(id))));

/** Writes all that lies on the bed when it is asked for. */
export const useTakeOutPlate = (id: string, revision: number, bed: Bed, lies: Lying) =>
  useAskedJob(JSON.stringify([revision, bed, lies.beside]), () =>
    answered(api.POST('/api/pieces/{piece_id}/plate', path(id))),
  );

export function useWaysToLie(id: string) {
  const ask = useMutation({
    mutationFn: () => answered<Job>(api.POST('/api/pieces/{piece_id}/orient', path(id))),
  });
  return { ask: ask.mutate, error: ask.error, job: useFollowed(ask.data) };
}

/** Cuts the piece when it is asked to; what was cut is out of date once the piece or its planes are others. */
export function useCutApart(id: string, revision: number | undefined, bed: Bed | undefined) {
  const asked = useAskedJob(JSON.stringify([revision, bed?.cut]), () =>
    answered(api.POST('/api/pieces/{piece_id}/cut', path(id))),
  );
  const parts = asked.job?.state === 'done' ? (asked.job.result as unknown as CutParts) : undefined;
  return { ...asked, parts };
}

const STAYS = { staleTime: Number.POSITIVE_INFINITY, gcTime: 60_000 } as const;

export function usePrintDetails(job: string | undefined) {
  return useQuery({
    queryKey: ['print-details', job],
    queryFn: () =>
      answered<PrintDetails>(
        api.GET('/api/jobs/{job_id}/print', { params: { path: { job_id: job ?? '' } } }),
      ),
    enabled: job !== undefined,
    ...STAYS,
  }).data;
}

/** Bytes that the server keeps with a print check. */
export function usePrintBytes(job: string | undefined, name: string | null) {
  return useQuery({
    queryKey: ['print-bytes', job, name],
    queryFn: async () => {
      const response = await fetch(`/api/jobs/${job}/print/${name}`);
      if (!response.ok) throw new Error(`The server answered ${response.status}.`);
      return response.arrayBuffer();
    },
    enabled: job !== undefined && name !== null,
    placeholderData: (last, query) => (query?.queryKey[1] === job ? last : undefined),
    ...STAYS,
  }).data;
}
