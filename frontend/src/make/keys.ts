/** The commands of Make, and the keyboard that runs them. */
import { useEffect } from 'react';
import { usePreferences } from '../api/preferences';
import { chordOf } from '../controls/chords';
import {
  COMMANDS,
  type Command,
  type CommandName,
  chords,
  commandAt,
  type ToolCommand,
} from '../controls/commands';
import { useEditor } from '../controls/editor';
import type { Open } from '../controls/PieceFrame';
import { toggleHistory } from '../history/shown';
import type { Rig } from '../viewport/CameraRig';
import { EYE_STEPS } from '../viewport/eyeSteps';
import { acrossAxis } from '../viewport/sectionAt';
import type { Actions } from './actions';
import { beginCopies, type CopiesKind } from './card/copies';
import { KEEP } from './card/Drawer';
import { LINE_UP } from './card/LineUp';
import { toolNamed } from './tools/registry';

type EyeCommand = (typeof EYE_STEPS)[number]['command'];

export type Framing = { all: () => void; chosen: () => void };
export type Runners = Record<CommandName, (fine: boolean) => unknown>;

type Around = {
  open: Open;
  actions: Actions;
  rig: () => Rig | null;
  framing: Framing;
  grid: number;
  turn: number;
  toggleSnapping: () => void;
  /** To another page. */
  go: (address: string) => void;
};

/** What every command does. */
export function makeRunners({
  open,
  actions,
  rig,
  framing,
  grid,
  turn,
  toggleSnapping,
  go,
}: Around): Runners {
  const editor = () => useEditor.getState();
  const { set } = editor();
  const nudge = (right: number, away: number, up: number) => (fine: boolean) => {
    const step = grid / (fine ? 10 : 1);
    const [x, y] = turned([right, away], rig());
    actions.nudge([tidy(x * step), tidy(y * step), tidy(up * step)]);
  };
  const copies = (kind: CopiesKind) => () => beginCopies(open, editor().chosen, kind);
  const some = (least: number, run: () => void) => () => {
    if (editor().chosen.filter((id) => open.known.has(id)).length >= least) run();
  };
  const tools = Object.entries<Command>(COMMANDS).flatMap(([name, { tool }]) =>
    tool ? [[name, some(toolNamed(tool).chosen ?? 0, () => set({ tool }))]] : [],
  );
  const eyes = EYE_STEPS.map(({ command, step }) => [
    command,
    () => {
      const now = rig();
      if (now) step(now);
    },
  ]);
  return {
    ...(Object.fromEntries(tools) as Pick<Runners, ToolCommand>),
    ...(Object.fromEntries(eyes) as Pick<Runners, EyeCommand>),
    undo: actions.undo,
    redo: actions.redo,
    history: toggleHistory,
    copy: actions.copy,
    cut: actions.cut,
    paste: actions.paste,
    duplicate: actions.duplicate,
    'duplicate-again': actions.duplicateAgain,
    remove: actions.remove,
    find: () => set({ finder: true }),
    preferences: () => go('/preferences'),
    keep: some(1, () => document.querySelector<HTMLElement>(`#${KEEP}`)?.click()),
    drawer: () => go('/drawer'),
    'pick-all': actions.chooseAll,
    'let-go': () => letGo(open),
    enter: () => enter(open),
    'nudge-right': nudge(1, 0, 0),
    'nudge-left': nudge(-1, 0, 0),
    'nudge-away': nudge(0, 1, 0),
    'nudge-near': nudge(0, -1, 0),
    raise: nudge(0, 0, 1),
    lower: nudge(0, 0, -1),
    'turn-left': () => actions.turn(turn),
    'turn-right': () => actions.turn(-turn),
    'line-up': some(2, () => document.querySelector<HTMLElement>(`#${LINE_UP} button`)?.focus()),
    sink: some(2, actions.sink),
    'set-down': some(1, () => actions.setDown()),
    centre: some(1, actions.centre),
    'mirror-x': some(1, () => actions.mirror('x')),
    'mirror-y': some(1, () => actions.mirror('y')),
    'mirror-z': some(1, () => actions.mirror('z')),
    'wheel-down': () => set({ floor: null }),
    snapping: toggleSnapping,
    group: actions.group,
    ungroup: actions.ungroup,
    union: () => actions.join('union'),
    difference: () => actions.join('difference'),
    intersection: () => actions.join('intersection'),
    split: () => actions.join('split'),
    'make-cutter': some(1, actions.makeCutter),
    'cut-with-copy': some(2, () => void actions.cutWithCopy(0.3)),
    'cut-inside': some(1, () => void actions.cutInside(2, 'z-')),
    bake: some(1, () => void actions.bake()),
    swap: actions.swap,
    'copies-row': copies('row'),
    'copies-ring': copies('ring'),
    'copies-twin': copies('twin'),
    'copies-grid': copies('grid'),
    'copies-path': copies('path'),
    'break-copies': actions.breakCopies,
    lock: () => actions.toggle('locked'),
    hide: () => actions.toggle('hidden'),
    solo: () => set({ solo: editor().solo ? null : editor().chosen.length ? editor().chosen : null }),
    reference: () => actions.toggle('reference'),
    cutters: () => set({ cutters: !editor().cutters }),
    'surface-glazed': () => set({ surface: 'glazed' }),
    'surface-clay': () => set({ surface: 'clay' }),
    'surface-wires': () => set({ surface: 'wires' }),
    'surface-bands': () => set({ surface: 'bands' }),
    'look-result': () => set({ look: 'result' }),
    'look-parts': () => set({ look: 'parts' }),
    'look-xray': () => set({ look: 'xray' }),
    'look-apart': () => {
      set({ look: 'apart' });
      // Once the panel lies over the view, which takes room from it.
      requestAnimationFrame(framing.all);
    },
    'look-section': () =>
      set({
        look: 'section',
        section: editor().section ?? acrossAxis('y', open.state.scene?.soundness?.bounds),
      }),
    'frame-all': framing.all,
    'frame-chosen': framing.chosen,
    projection: () => set({ projection: editor().projection === 'parallel' ? 'perspective' : 'parallel' }),
  };
}

const ARROWS = ['Left', 'Right', 'Up', 'Down', 'Enter'];

export function useKeys(runners: Runners | null) {
  const { shortcuts } = usePreferences();
  useEffect(() => {
    if (!runners) return;
    const all = chords(shortcuts);
    const press = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      if (target.closest('input, select, textarea, [role="menu"], .dropdown-menu, [role="dialog"]')) return;
      const chord = chordOf(e);
      if (!chord) return;
      // Within the recipe and the tray, and on buttons, arrows and Enter walk and press.
      const walks = ARROWS.includes(chord.replace('Shift+', ''));
      if (walks && target.closest('[role="tree"], [role="tablist"], .tiles, button, a')) return;
      const found = commandAt(chord, all);
      if (!found) return;
      e.preventDefault();
      void runners[found.name](found.fine);
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [runners, shortcuts]);
}

/** One step back: leave the tool, let go of what is chosen, step out of the group, show all again. */
function letGo({ known }: Open) {
  const { tool, chosen, inside, solo, set } = useEditor.getState();
  if (tool !== 'hand') set({ tool: 'hand' });
  else if (inside)
    set({ inside: known.get(inside)?.parent?.id ?? null, chosen: known.has(inside) ? [inside] : [] });
  else if (chosen.length) set({ chosen: [] });
  else if (solo) set({ solo: null });
}

/** Into the chosen group: its first part is picked. */
function enter({ known }: Open) {
  const { chosen, set } = useEditor.getState();
  const part = chosen[0] ? known.get(chosen[0])?.part : undefined;
  const first = part?.join?.parts[0];
  if (part && first) set({ inside: part.id, chosen: [first.id] });
}

const tidy = (value: number): number => Number(value.toFixed(6)) + 0;

/** A way on the screen as a way on the wheel: along whichever axis the camera sees it. */
function turned([right, away]: [number, number], rig: Rig | null): [number, number] {
  const facing = rig?.direction();
  const quarter = facing ? Math.round(Math.atan2(facing.x, facing.y) / (Math.PI / 2)) : 0;
  const [c, s] = [
    Math.round(Math.cos((quarter * Math.PI) / 2)),
    Math.round(Math.sin((quarter * Math.PI) / 2)),
  ];
  return [right * c + away * s + 0, -right * s + away * c + 0];
}
