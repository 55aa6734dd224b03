/** Whether the history lies beside the view, and which earlier state is compared with the piece, or with another. */
import { create } from 'zustand';
import type { HistoryStep } from '../api/client';

type Shown = { shown: boolean; compared: HistoryStep | null; later: HistoryStep | null };

export const useHistoryShown = create<Shown>(() => ({ shown: false, compared: null, later: null }));

export const toggleHistory = () =>
  useHistoryShown.setState(({ shown }) => ({ shown: !shown, compared: null, later: null }));

/** Two states beside each other, whichever of them was first. */
export const compareBoth = (one: HistoryStep, other: HistoryStep) =>
  useHistoryShown.setState(
    one.number <= other.number ? { compared: one, later: other } : { compared: other, later: one },
  );
