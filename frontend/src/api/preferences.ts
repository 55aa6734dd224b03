/** The maker's preferences, kept on the server. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { underNames } from '../controls/commands';
import { answered, api, askAgain, pauseBefore } from './client';
import type { components } from './generated';

export type Preferences = Required<components['schemas']['Preferences']>;

const KEY = ['preferences'];
export const PLAIN: Preferences = {
  shortcuts: {},
  grid_mm: 1,
  turn_deg: 15,
  sink_mm: 0.4,
  snapping: true,
  glazes: 'line',
};

export function usePreferences(): Preferences {
  const found = useQuery({
    queryKey: KEY,
    queryFn: async () => renamed(await answered<Preferences>(api.GET('/api/preferences'))),
    staleTime: Number.POSITIVE_INFINITY,
    retry: askAgain,
    retryDelay: pauseBefore,
  });
  return found.data ?? PLAIN;
}

const renamed = (kept: Preferences): Preferences => ({ ...kept, shortcuts: underNames(kept.shortcuts) });

export function useKeepPreferences() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (preferences: Preferences) =>
      answered<Preferences>(api.PUT('/api/preferences', { body: preferences })),
    onSuccess: (kept) => client.setQueryData(KEY, kept),
  });
}
