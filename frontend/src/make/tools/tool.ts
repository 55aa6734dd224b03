/** What a tool of the view is: what a press in the view does while it is in hand. */
import type { ComponentType } from 'react';
import type { Preferences } from '../../api/preferences';
import type { Open } from '../../controls/PieceFrame';
import type { DragContext } from '../../viewport/dragContext';
import type { ViewHandle } from '../../viewport/View';
import type { Actions } from '../actions';

export type ToolProps = {
  open: Open;
  /** What drags need; null while nothing is shown yet. */
  context: DragContext | null;
  view: ViewHandle;
  actions: Actions;
  preferences: Preferences;
};

export type ViewTool = {
  /** What the editor's `tool` says while it is in hand, and the `tool` of the command that takes it. */
  name: string;
  /** How many parts must be chosen for it. */
  chosen?: number;
  /** Where it stands over the view: a button beside the looks or below them, or a line of the menu "Pick". */
  button?: { under: 'looks' | 'view' | 'pick'; word: string; title: string };
  /** In the scene, while it is in hand. */
  InScene?: ComponentType<ToolProps>;
  /** On the page over the view, while it is in hand. */
  OverView?: ComponentType<ToolProps>;
  /** What it waits for, with its settings. */
  Note?: ComponentType<ToolProps>;
};
