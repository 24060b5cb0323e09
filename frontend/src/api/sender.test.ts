import { QueryClient } from '@tanstack/react-query';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Clash } from '../ui/Conflict';
import { jobKey } from './client';
import { outbox, type Edit } from './outbox';
import { Sender } from './sender';

let count = 0;

function edit(change: Partial<Edit> = {}): Edit {
  count += 1;
  return {
    id: `e${count}`,
    jobId: 1,
    kind: 'job',
    method: 'PATCH',
    path: '/api/jobs/1',
    body: { wish: 'quiet' },
    versionField: 'version',
    from: 3,
    replaces: { wish: 'loud' },
    what: 'The wish',
    mine: 'quiet',
    ...change,
  };
}

const page = (version: number, jobId = 1) => ({ job: { id: jobId, version }, fan: { version: 1 }, last_revision: 0, filed_under: null, readings: [] });
const json = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } });
const stale = (current: unknown) => json({ type: 'stale', title: 'Changed', status: 409, detail: 'changed meanwhile', current }, 409);

/** Answers in their order, and what was asked. */
function server(...answers: (Response | Error)[]) {
  const asked: { path: string; body: Record<string, unknown> }[] = [];
  vi.stubGlobal('fetch', (path: string, init: RequestInit) => {
    asked.push({ path, body: JSON.parse(init.body as string) as Record<string, unknown> });
    const next = answers.shift();
    return next instanceof Response ? Promise.resolve(next) : Promise.reject(next ?? new Error('nobody there'));
  });
  return asked;
}

let queries: QueryClient;
let sender: Sender;

beforeEach(() => {
  for (const e of outbox.all()) outbox.drop(e.id);
  queries = new QueryClient();
  sender = new Sender(queries);
});

describe('saving', () => {
  it('sends the version the edit started from and puts the answer on screen', async () => {
    const asked = server(json(page(4)));
    expect(await sender.save(edit())).toBeNull();
    expect(asked[0]?.body).toEqual({ wish: 'quiet', version: 3 });
    expect(queries.getQueryData(jobKey(1))).toEqual(page(4));
  });

  it('follows its own saves: a second edit begun on the same screen is not stale', async () => {
    const asked = server(json(page(4)), json(page(5)));
    await Promise.all([sender.save(edit()), sender.save(edit({ body: { wish: 'still' } }))]);
    expect(asked.map((a) => a.body.version)).toEqual([3, 4]);
  });

  it('says what was refused beside the field and keeps nothing of it', async () => {
    server(json({ type: 'input', title: 'No', status: 422, detail: 'too long', field: 'wish' }, 422));
    expect((await sender.save(edit()))?.detail).toBe('too long');
    expect(outbox.all()).toEqual([]);
  });

  it('lets both edits stand where the other window changed something else', async () => {
    const asked = server(stale({ version: 9, wish: 'loud' }), json(page(10)));
    expect(await sender.save(edit())).toBeNull();
    expect(asked.map((a) => a.body.version)).toEqual([3, 9]);
  });

  it('offers both texts where the other window changed the same', async () => {
    const clashes: Clash[] = [];
    sender.show(1, (clash) => clashes.push(clash));
    const asked = server(stale({ version: 9, wish: 'loud and clear' }), json(page(10)));
    expect(await sender.save(edit())).toBeNull();
    expect(clashes[0]).toMatchObject({ mine: 'quiet', theirs: 'wish: loud and clear' });
    clashes[0]?.keepMine();
    await vi.waitFor(() => expect(asked).toHaveLength(2));
    expect(asked[1]?.body.version).toBe(9);
  });

  it('knows its own reading again when only the answer was lost', async () => {
    const reading = edit({
      kind: 'reading',
      path: '/api/jobs/1/readings',
      body: { quantity: 'speed_rpm', text: '330', who: 'R. Fell', step: null },
      versionField: 'supersedes',
      from: null,
      replaces: {},
    });
    const asked = server(stale({ id: 7, typed: '330', who: 'R. Fell', aside: false }));
    expect(await sender.save(reading)).toBeNull();
    expect(asked).toHaveLength(1);
  });
});

describe('edits that wait', () => {
  it('stay on this device while nobody answers, and go in their order when somebody does', async () => {
    server();
    expect((await sender.save(edit()))?.type).toBe('kept');
    expect((await sender.save(edit({ body: { wish: 'second' } })))?.type).toBe('kept');
    expect(JSON.parse(localStorage.getItem('fenwit-outbox') ?? '[]')).toHaveLength(2);
    const asked = server(json(page(4)), json(page(5)));
    await sender.flushAll();
    expect(asked.map((a) => a.body)).toEqual([
      { wish: 'quiet', version: 3 },
      { wish: 'second', version: 4 },
    ]);
    expect(outbox.all()).toEqual([]);
  });

  it('of a job that is not on screen are sent too, each to its own', async () => {
    server();
    await sender.save(edit());
    await sender.save(edit({ jobId: 2, path: '/api/jobs/2' }));
    const asked = server(json(page(4)), json(page(4, 2)));
    await sender.flushAll();
    expect(asked.map((a) => a.path)).toEqual(['/api/jobs/1', '/api/jobs/2']);
    expect(outbox.all()).toEqual([]);
  });

  it('that are then refused are told, not dropped unseen', async () => {
    server();
    await sender.save(edit());
    server(json({ type: 'input', title: 'No', status: 422, detail: 'too long' }, 422));
    await sender.flushAll();
    expect(outbox.all()).toEqual([]);
    expect(localStorage.getItem('fenwit-refused')).toContain('The wish, quiet: too long');
  });

  it('survive nonsense in the store', () => {
    localStorage.setItem('fenwit-outbox', '{broken');
    outbox.refresh();
    expect(outbox.all()).toEqual([]);
  });
});
