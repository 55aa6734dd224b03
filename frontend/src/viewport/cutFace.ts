/** The cut face of a section, asked of the server: one question at a time, of those that wait only the newest. */
import { useEffect, useMemo, useState } from 'react';
import { create } from 'zustand';
import { answered, api, type CutFace } from '../api/client';
import type { SectionAt } from '../controls/editor';
import { latest } from '../controls/latest';
import { planeOf } from './sectionAt';

/** A cut face, with what it was asked of. */
export type Cut = { key: string; section: SectionAt; face: CutFace };

/** The last that came, for the panel that says how large it is. */
export const useShownCut = create<{ cut: Cut | null }>(() => ({ cut: null }));

/** The cut face of a skin; while a newer one is on its way, the one before it. */
export function useCutFace(piece: string, key: string | null, section: SectionAt | null): Cut | null {
  const [cut, setCut] = useState<Cut | null>(null);
  const ask = useMemo(
    () =>
      latest(
        ({ key, section }: { key: string; section: SectionAt }) =>
          answered<CutFace>(
            api.POST('/api/pieces/{piece_id}/section', {
              params: { path: { piece_id: piece } },
              body: { key, ...planeOf(section) },
            }),
          ),
        (of, face) => setCut({ ...of, face }),
      ),
    [piece],
  );
  useEffect(() => {
    if (key && section) ask({ key, section });
  }, [ask, key, section]);
  useEffect(() => {
    useShownCut.setState({ cut });
    return () => useShownCut.setState({ cut: null });
  }, [cut]);
  return cut;
}
