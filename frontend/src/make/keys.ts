/** The keyboard of Make. */
import { useEffect } from 'react';
import { useEditor } from '../controls/editor';
import type { Eye } from '../viewport/Sight';
import type { Actions } from './actions';

const STEP_MM = 1;

export type Framing = { all: () => void; chosen: () => void };

export function useKeys(actions: Actions | null, eye: () => Eye | null, framing: Framing) {
  useEffect(() => {
    if (!actions) return;
    const press = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      if (target.closest('input, select, textarea, [role="menu"], .dropdown-menu')) return;
      if (handled(e, actions, eye(), framing)) e.preventDefault();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [actions, eye, framing]);
}

function handled(e: KeyboardEvent, actions: Actions, eye: Eye | null, framing: Framing): boolean {
  if (e.ctrlKey || e.metaKey) {
    const run = {
      c: actions.copy,
      v: actions.paste,
      x: actions.cut,
      d: actions.duplicate,
      z: e.shiftKey ? actions.redo : actions.undo,
      y: actions.redo,
      a: actions.chooseAll,
    }[e.key.toLowerCase()];
    if (run) void run();
    return run !== undefined;
  }
  const step = e.shiftKey ? STEP_MM / 10 : STEP_MM;
  const editor = useEditor.getState();
  switch (e.key) {
    case 'Delete':
    case 'Backspace':
      void actions.remove();
      return true;
    case 'Escape':
      editor.choose([]);
      return true;
    case 'PageUp':
      actions.nudge([0, 0, step]);
      return true;
    case 'PageDown':
      actions.nudge([0, 0, -step]);
      return true;
    case 'Home':
      if (e.shiftKey) framing.chosen();
      else framing.all();
      return true;
    case 'k':
    case 'K':
      editor.toggleCutters();
      return true;
  }
  const way = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
  // Within the recipe and the tray, arrows walk the list.
  if (
    !way ||
    (e.target as HTMLElement).closest('[role="tree"], [role="tablist"], .tiles') ||
    !editor.chosen.length
  )
    return false;
  const [x, y] = turned(way as [number, number], eye);
  actions.nudge([x * step, y * step, 0]);
  return true;
}

/** A way on the screen as a way on the wheel: along whichever axis the eye sees it. */
function turned([right, away]: [number, number], eye: Eye | null): [number, number] {
  const facing = eye?.direction();
  const quarter = facing ? Math.round(Math.atan2(facing.x, facing.y) / (Math.PI / 2)) : 0;
  const [c, s] = [
    Math.round(Math.cos((quarter * Math.PI) / 2)),
    Math.round(Math.sin((quarter * Math.PI) / 2)),
  ];
  return [right * c + away * s + 0, -right * s + away * c + 0];
}
