/** Carrying out what findings offer: edits of the recipe at once, mending of meshes as jobs. */
import { useState } from 'react';
import { said } from '../api/client';
import { mendFlaw } from '../api/jobs';
import type { Open } from '../controls/PieceFrame';
import type { Fix } from './finding';

export function useFixes(open: Open | null) {
  const [wrong, setWrong] = useState<string | null>(null);
  const run = async (fix: Fix) => {
    if (!open) return;
    setWrong(null);
    if ('edit' in fix) {
      await open.work.edit(fix.edit);
      return;
    }
    try {
      await mendFlaw(open.id, fix.flaw);
    } catch (error) {
      setWrong(said(error));
    }
  };
  return { run, wrong };
}
