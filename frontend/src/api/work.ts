/**
 * The maker's work on one piece as a queue: gestures are sent one after the other, each on the revision that the one
 * before it made. When nobody answers, the gesture waits and is sent again under the same id, so it is done once.
 */
import type { QueryClient } from '@tanstack/react-query';
import { create } from 'zustand';
import type { Vector } from '../controls/editor';
import {
  type Adjust,
  type Answer,
  Away,
  answered,
  api,
  type Carried,
  type Edit,
  type Face,
  type KeptFields,
  type MeasuredSpot,
  type PieceState,
  type Primitive,
  pauseBefore,
  Refused,
  said,
} from './client';
import { keepState, newRequestId, pieceKey } from './pieces';

type WorkState = {
  /** Gestures not yet answered. */
  waiting: number;
  /** Why the server is not being reached, or null. */
  away: string | null;
  /** The last refusal, until the maker's next gesture. */
  refusal: string | null;
  /** Something the maker should know, until their next gesture. */
  told: string | null;
  dismiss: () => void;
  /** Do not send what waits, and take it out of the queue. */
  giveUp: () => void;
};

/** Ends the pause before a gesture is sent again, and the gesture with it. */
let breakOff: (() => void) | null = null;
/** Gestures begun before this moment are not sent any more. */
let givenUp = 0;

export const useWork = create<WorkState>((set) => ({
  waiting: 0,
  away: null,
  refusal: null,
  told: null,
  dismiss: () => set({ refusal: null, told: null }),
  giveUp: () => {
    givenUp = performance.now();
    breakOff?.();
  },
}));

const works = new Map<string, Work>();

/** The queue of a piece: one for all stages and pages of this window, so that the order of gestures is kept. */
export function workOf(client: QueryClient, id: string): Work {
  const known = works.get(id);
  if (known) return known;
  const work = new Work(client, id);
  works.set(id, work);
  return work;
}

/** Where something new goes: a spot of the wheel, a face that is the floor for now, or beside what is there. */
export type Spot = {
  at: [number, number] | null;
  on: { point: Vector; normal: Vector } | null;
  beside: boolean;
};

type Send = (base: number, now: PieceState | undefined) => Promise<PieceState>;

export class Work {
  private tail: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly client: QueryClient,
    private readonly id: string,
  ) {}

  edit(edit: Edit): Promise<PieceState | null> {
    return this.gesture((of) =>
      api.POST('/api/pieces/{piece_id}/edits', { ...this.at, body: { ...of, edit } }),
    );
  }

  adjust(adjust: Adjust): Promise<PieceState | null> {
    return this.gesture((of) =>
      api.POST('/api/pieces/{piece_id}/adjust', { ...this.at, body: { ...of, adjust } }),
    );
  }

  /** Where an adjustment would carry parts. Rejects with a refusal in words. */
  preview(adjust: Adjust): Promise<Carried[]> {
    return answered<Carried[]>(
      api.POST('/api/pieces/{piece_id}/adjust/preview', { ...this.at, body: { adjust } }),
    );
  }

  /** The face that a ray meets first. */
  face(eye: Vector, direction: Vector): Promise<Face> {
    return answered<Face>(api.POST('/api/pieces/{piece_id}/face', { ...this.at, body: { eye, direction } }));
  }

  /** What a ray meets first, to measure from. */
  spot(body: { eye: Vector; direction: Vector; reach: number }): Promise<MeasuredSpot> {
    return answered<MeasuredSpot>(api.POST('/api/pieces/{piece_id}/spot', { ...this.at, body }));
  }

  /** Make a part its own mesh. */
  bake(id: string): Promise<PieceState | null> {
    return this.gesture((of) => api.POST('/api/pieces/{piece_id}/bake', { ...this.at, body: { ...of, id } }));
  }

  putDown(primitive: Primitive, spot: Spot): Promise<PieceState | null> {
    return this.gesture((of) =>
      api.POST('/api/pieces/{piece_id}/put-down', { ...this.at, body: { ...of, primitive, ...spot } }),
    );
  }

  /** Put a preset, or a part of the drawer, where it is dropped or beside what stands there. */
  putReady(ready: { preset: string } | { kept: string }, spot: Spot): Promise<PieceState | null> {
    return this.gesture((of) =>
      api.POST('/api/pieces/{piece_id}/put-ready', { ...this.at, body: { ...of, ...ready, ...spot } }),
    );
  }

  /** Put a copy of parts into the drawer. */
  keep(ids: string[], fields: KeptFields): Promise<PieceState | null> {
    return this.gesture((of) =>
      api.POST('/api/pieces/{piece_id}/keep', { ...this.at, body: { ...of, ids, fields } }),
    );
  }

  /** Make a copy as the drawer has it now; or let the drawer have what was made of the copy. */
  withDrawer(way: 'follow' | 'put-back', id: string): Promise<PieceState | null> {
    return this.gesture((of) =>
      api.POST(`/api/pieces/{piece_id}/${way}`, { ...this.at, body: { ...of, id } }),
    );
  }

  undo(): Promise<PieceState | null> {
    return this.step('undo');
  }

  redo(): Promise<PieceState | null> {
    return this.step('redo');
  }

  /** To where a step of the history left the piece; 0: to its beginning. */
  goTo(step: number): Promise<PieceState | null> {
    return this.queue((base_revision) =>
      answered<PieceState>(
        api.POST('/api/pieces/{piece_id}/history/go', { ...this.at, body: { base_revision, step } }),
      ),
    );
  }

  /** A step back or on; nothing where there is none left by then, as when a key is held. */
  private step(way: 'undo' | 'redo'): Promise<PieceState | null> {
    return this.queue((base_revision, now) =>
      now && now[way] === null
        ? Promise.resolve(now)
        : answered<PieceState>(
            api.POST(`/api/pieces/{piece_id}/${way}`, { ...this.at, body: { base_revision } }),
          ),
    );
  }

  private get at() {
    return { params: { path: { piece_id: this.id } } };
  }

  /** Sends what is made of the piece as it then is, as one request however often it has to be sent. */
  private gesture(
    ask: (of: { base_revision: number; request_id: string }) => Promise<Answer>,
  ): Promise<PieceState | null> {
    const request_id = newRequestId();
    return this.queue((base_revision) => answered<PieceState>(ask({ base_revision, request_id })));
  }

  private queue(send: Send): Promise<PieceState | null> {
    useWork.setState((s) => ({ waiting: s.waiting + 1, refusal: null, told: null }));
    const since = performance.now();
    const done = this.tail.then(() => this.persist(send, since));
    this.tail = done.catch(() => undefined);
    return done.finally(() => useWork.setState((s) => ({ waiting: s.waiting - 1 })));
  }

  /** Sends a gesture until it is answered or given up. Only what never arrived is sent again. */
  private async persist(send: Send, since: number): Promise<PieceState | null> {
    for (let again = 0; since > givenUp; again++) {
      try {
        const now = this.client.getQueryData<PieceState>(pieceKey(this.id));
        const state = await send(now?.revision ?? 0, now);
        keepState(this.client, state);
        useWork.setState({ away: null });
        return state;
      } catch (error) {
        if (error instanceof Away) {
          useWork.setState({ away: error.message });
          await new Promise<void>((resolve) => {
            breakOff = resolve;
            setTimeout(resolve, pauseBefore(again));
          });
          continue;
        }
        useWork.setState({ away: null, refusal: said(error) });
        if (error instanceof Refused && error.status === 409) {
          await this.client.invalidateQueries({ queryKey: pieceKey(this.id) });
        }
        return null;
      }
    }
    useWork.setState({
      away: null,
      told: 'What was waiting was not sent; the piece is as it was kept last.',
    });
    await this.client.invalidateQueries({ queryKey: pieceKey(this.id) });
    return null;
  }
}
