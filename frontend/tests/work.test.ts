/** The queue of gestures, against a server of its own that can be away. */
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { QueryClient } from '@tanstack/react-query';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { PieceState } from '../src/api/client';

type Body = { base_revision: number; request_id: string; edit: { name: string } };
let server: Server;
/** Brought in once the page's addresses lead to the server: what asks keeps the `Request` that it finds. */
let page: typeof import('../src/api/work') & { pieceKey: (id: string) => readonly unknown[] };
let heard: Body[] = [];
let away = 0;
let revision = 0;

beforeAll(async () => {
  server = createServer((request, answer) => {
    const parts: Buffer[] = [];
    request.on('data', (p) => parts.push(p));
    request.on('end', () => {
      const body = JSON.parse(Buffer.concat(parts).toString()) as Body;
      heard.push(body);
      answer.setHeader('content-type', 'application/json');
      if (away-- > 0) {
        answer.statusCode = 503;
        answer.end(JSON.stringify({ message: 'not now', problems: [], away: true }));
        return;
      }
      if (body.edit.name === 'refused') {
        answer.statusCode = 422;
        answer.end(JSON.stringify({ message: 'no such name', problems: [] }));
        return;
      }
      revision += 1;
      answer.end(JSON.stringify({ id: 'p', revision }));
    });
  });
  await new Promise<void>((done) => server.listen(0, done));
  const { port } = server.address() as AddressInfo;
  // A page's own addresses, as a browser would take them.
  globalThis.Request = class extends Request {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === 'string' ? new URL(input, `http://127.0.0.1:${port}`) : input, init);
    }
  };
  page = { ...(await import('../src/api/work')), ...(await import('../src/api/pieces')) };
});
afterAll(() => void server.close());
beforeEach(() => {
  [heard, away, revision] = [[], 0, 0];
});

const named = (name: string) => ({ kind: 'set_piece' as const, name });
const begun = () => {
  const client = new QueryClient();
  client.setQueryData(page.pieceKey('p'), { id: 'p', revision: 0 } as PieceState);
  return { client, work: new page.Work(client, 'p') };
};

test('gestures go one after the other, each on the revision that the one before made', async () => {
  const { work } = begun();
  await Promise.all(['a', 'b', 'c'].map((name) => work.edit(named(name))));
  expect(heard.map((h) => [h.edit.name, h.base_revision])).toEqual([
    ['a', 0],
    ['b', 1],
    ['c', 2],
  ]);
});

test('one that nobody answered is sent again under the same id, and the next waits for it', async () => {
  const { work } = begun();
  away = 1;
  await Promise.all([work.edit(named('a')), work.edit(named('b'))]);
  expect(heard.map((h) => h.edit.name)).toEqual(['a', 'a', 'b']);
  expect(heard[0]?.request_id).toBe(heard[1]?.request_id);
});

test('a refusal is told and the next goes on', async () => {
  const { work } = begun();
  const [first, second] = await Promise.all([work.edit(named('refused')), work.edit(named('b'))]);
  expect([first, second?.revision]).toEqual([null, 1]);
});

test('a refusal stands until the next gesture', async () => {
  const { work } = begun();
  await work.edit(named('refused'));
  expect(page.useWork.getState().refusal).toBe('no such name');
});

test('all stages have the one queue of a piece', () => {
  const { client } = begun();
  const { workOf } = page;
  expect(workOf(client, 'p')).toBe(workOf(client, 'p'));
  expect(workOf(client, 'q')).not.toBe(workOf(client, 'p'));
});
