/** Drafts while parts are dragged: what the piece would be, over a socket; the newest question wins. */
import { useEffect, useMemo } from 'react';
import { create } from 'zustand';
import type { Edit } from '../api/client';
import type { BoxCorners } from './clip';
import { type Drawable, drawableOf } from './meshes';

/**
 * A draft: inside `box` this mesh, with what its part indices mean; outside it the joined skin with the key `on`, as it
 * was. Without a box the mesh is the whole.
 */
export type Draft = { on: string | null; box: BoxCorners | null; mesh: Drawable; parts: string[] };

/** refusal: why there is none for what was asked last. */
type DraftState = { draft: Draft | null; lost: boolean; refusal: string | null };
export const useDraft = create<DraftState>(() => ({ draft: null, lost: false, refusal: null }));

/** Asks for drafts of one piece. One question is on its way at a time; of those that wait, only the newest is sent. */
export class Drafts {
  private socket: WebSocket | null = null;
  private count = 0;
  private asked: number | null = null;
  private waiting: { edit: Edit; revision: number } | null = null;

  constructor(private readonly id: string) {}

  ask(edit: Edit, revision: number) {
    this.waiting = { edit, revision };
    this.send();
  }

  /** The drag is over: what is still on its way is not shown any more. */
  end() {
    this.waiting = null;
    this.count += 1;
    useDraft.setState({ draft: null, refusal: null });
  }

  close() {
    this.end();
    this.socket?.close();
    this.socket = null;
  }

  private send() {
    if (!this.waiting || this.asked !== null) return;
    const socket = this.open();
    if (socket.readyState !== WebSocket.OPEN) return;
    this.count += 1;
    this.asked = this.count;
    socket.send(JSON.stringify({ n: this.count, ...this.waiting }));
    this.waiting = null;
  }

  private open(): WebSocket {
    if (this.socket && this.socket.readyState <= WebSocket.OPEN) return this.socket;
    const socket = new WebSocket(`ws://${location.host}/api/pieces/${this.id}/drafts`);
    this.socket = socket;
    socket.binaryType = 'arraybuffer';
    socket.onopen = () => {
      useDraft.setState({ lost: false });
      this.send();
    };
    // The part follows the hand all the same; the exact result comes with letting go.
    socket.onclose = () => {
      this.asked = null;
      if (this.socket === socket) this.socket = null;
      useDraft.setState({ lost: true });
    };
    socket.onmessage = async ({ data }) => {
      const n = typeof data === 'string' ? null : new DataView(data).getUint32(0, true);
      const draft = n === this.count ? await readDraft(data).catch(() => null) : null;
      this.asked = null;
      if (n !== null && n === this.count) {
        useDraft.getState().draft?.mesh.geometry.dispose();
        useDraft.setState({ draft, refusal: null });
      } else if (n === null) {
        const { n: asked, message } = JSON.parse(data);
        if (asked === this.count) useDraft.setState({ draft: null, refusal: message });
      }
      this.send();
    };
    return socket;
  }
}

async function readDraft(data: ArrayBuffer): Promise<Draft> {
  const head = new DataView(data).getUint32(4, true);
  const { parts, on, box } = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 8, head)));
  return { parts, on, box, mesh: await drawableOf(data.slice(8 + head)) };
}

/** The drafts of a piece while its page is open. */
export function useDrafts(id: string | undefined): Drafts | null {
  const drafts = useMemo(() => (id ? new Drafts(id) : null), [id]);
  useEffect(() => () => drafts?.close(), [drafts]);
  return drafts;
}
