/** Whether the history lies beside the view, and which earlier state is compared with the piece. */
import { create } from 'zustand';
import type { HistoryStep } from '../api/client';

type Shown = { shown: boolean; compared: HistoryStep | null };

export const useHistoryShown = create<Shown>(() => ({ shown: false, compared: null }));

export const toggleHistory = () =>
  useHistoryShown.setState(({ shown }) => ({ shown: !shown, compared: null }));
