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
  contact_shade: 'quick',
  own_glazes: [],
  favourites: [],
  printers: [],
  filaments: [],
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

/** Whether something of the tray is a favourite, and what makes it one or none any more. */
export function useFavourites() {
  const preferences = usePreferences();
  const keep = useKeepPreferences();
  const { favourites } = preferences;
  return {
    favourites,
    toggle: (key: string) =>
      keep.mutate({
        ...preferences,
        favourites: favourites.includes(key) ? favourites.filter((f) => f !== key) : [...favourites, key],
      }),
  };
}

export function useKeepPreferences() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (preferences: Preferences) =>
      answered<Preferences>(api.PUT('/api/preferences', { body: preferences })),
    // Shown at once: the next change is made on this one.
    onMutate: (preferences) => void client.setQueryData(KEY, preferences),
    onError: () => client.invalidateQueries({ queryKey: KEY }),
  });
}
