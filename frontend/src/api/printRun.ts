/** A simulated printer, over a socket: where its print is, and what it is told. */
import { useCallback, useEffect, useRef, useState } from 'react';

export type RunState = {
  state: 'printing' | 'paused' | 'done' | 'stopped' | 'failed';
  /** From 0. */
  layer: number;
  /** Seconds, as a real printer would take them. */
  left: number;
  share: number;
  message?: string;
};

export function usePrintRun(job: string, told: (run: RunState) => void) {
  const socket = useRef<WebSocket | null>(null);
  const [run, setRun] = useState<RunState | null>(null);
  const heard = useRef(told);
  heard.current = told;
  const leave = useCallback(() => {
    socket.current?.close();
    socket.current = null;
  }, []);
  // Another print, or another page: this one is over.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for every print
  useEffect(() => {
    setRun(null);
    return leave;
  }, [job, leave]);
  const begin = useCallback(() => {
    leave();
    const now = new WebSocket(`ws://${location.host}/api/jobs/${job}/print/run`);
    socket.current = now;
    now.onmessage = ({ data }) => {
      if (socket.current !== now) return;
      const state = JSON.parse(data) as RunState;
      setRun(state);
      heard.current(state);
    };
    now.onclose = () => {
      if (socket.current !== now) return;
      socket.current = null;
      setRun((last) => (last && underWay(last) ? { ...last, state: 'stopped' } : last));
    };
  }, [job, leave]);
  const say = (word: 'pause' | 'resume' | 'stop') => socket.current?.send(word);
  return { run, begin, say };
}

export const underWay = ({ state }: RunState) => state === 'printing' || state === 'paused';
