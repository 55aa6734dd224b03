/** The cut face of a section, asked of the server: one question at a time, of those that wait only the newest. */
import { useEffect, useRef, useState } from 'react';
import { create } from 'zustand';
import type { SectionAt } from '../controls/editor';
import { planeOf } from '../viewport/sectionAt';
import { answered, api, type CutFace } from './client';

/** A cut face, with what it was asked of. */
export type Cut = { key: string; section: SectionAt; face: CutFace };

/** The last that came, for the panel that says how large it is. */
export const useShownCut = create<{ cut: Cut | null }>(() => ({ cut: null }));

/** The cut face of a skin; while a newer one is on its way, the one before it; null where nothing is asked. */
export function useCutFace(piece: string, key: string | null, section: SectionAt | null): Cut | null {
  const [cut, setCut] = useState<Cut | null>(null);
  const newest = useRef<{ key: string; section: SectionAt } | null>(null);
  const asking = useRef(false);
  newest.current = key && section ? { key, section } : null;
  useEffect(() => {
    let over = false;
    const ask = async () => {
      const wanted = newest.current;
      if (!wanted || asking.current) return;
      asking.current = true;
      try {
        const body = { key: wanted.key, ...planeOf(wanted.section) };
        const face = await answered<CutFace>(
          api.POST('/api/pieces/{piece_id}/section', { params: { path: { piece_id: piece } }, body }),
        );
        if (!over && newest.current) setCut({ ...wanted, face });
      } catch {
        // The section is drawn without its cut face, until it is moved again.
      } finally {
        asking.current = false;
      }
      const now = newest.current;
      if (!over && now && (now.key !== wanted.key || now.section !== wanted.section)) void ask();
    };
    if (key && section) void ask();
    else setCut(null);
    return () => {
      over = true;
    };
  }, [piece, key, section]);
  useEffect(() => {
    useShownCut.setState({ cut });
    return () => useShownCut.setState({ cut: null });
  }, [cut]);
  return cut;
}
