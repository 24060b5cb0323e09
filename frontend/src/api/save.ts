import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo } from 'react';
import type { Clash } from '../ui/Conflict';
import { isProblem, OFFLINE, jobKey, useTakePage, type JobPageData, type Problem } from './client';
import { outbox, type Edit } from './outbox';

export type NewEdit = Omit<Edit, 'id' | 'jobId'>;

/** What the field shows while its edit waits on this device. */
export const KEPT: Problem = {
  type: 'kept',
  title: 'Kept here',
  status: 0,
  detail: 'Kept on this device; sent when Fenwit is back.',
};

/** A problem that needs doing something about: an edit that waits on this device does not. */
export const unlessKept = (problem: Problem | null) => (problem?.type === 'kept' ? null : problem);

type Stored = Record<string, unknown> | null;

/** Where the version stands in what the server stores, and in the page that answers a save. */
const VERSION: Record<Edit['kind'], (stored: Stored) => number | null> = {
  fan: (s) => numberIn(s, 'version') ?? 0,
  job: (s) => numberIn(s, 'version') ?? 0,
  reading: (s) => numberIn(s, 'id'),
  design: (s) => numberIn(s, 'revision') ?? 0,
};

function numberIn(stored: Stored, name: string): number | null {
  const value = stored?.[name];
  return typeof value === 'number' ? value : null;
}

function after(edit: Edit, page: JobPageData): number | null {
  if (edit.kind === 'fan') return page.fan.version;
  if (edit.kind === 'job') return page.job.version;
  if (edit.kind === 'design') return page.last_revision;
  const step = edit.body.step ?? null;
  const run = edit.body.run ?? null;
  const filed = step === null ? null : page.filed_under;
  return page.readings.findLast((r) => r.quantity === edit.body.quantity && r.step === step && r.run_id === run && r.design_id === filed)?.id ?? null;
}

const scope = (edit: Edit) =>
  edit.kind === 'reading' ? `reading ${JSON.stringify([edit.body.quantity, edit.body.step, edit.body.run ?? null])}` : edit.kind;

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Whether the other window left alone what is edited here; then both edits can stand. */
function untouched(edit: Edit, current: Stored): boolean {
  const names = Object.keys(edit.replaces);
  return names.length > 0 && current !== null && names.every((n) => same(current[n], edit.replaces[n]));
}

/** Whether the stored version is this very edit: it arrived, only its answer was lost. */
function arrived(edit: Edit, current: Stored): boolean {
  return edit.kind === 'reading' && current !== null && current.typed === edit.body.text && current.who === edit.body.who && current.aside === (edit.body.aside ?? false);
}

function theirs(edit: Edit, current: Stored): string {
  if (current === null) return 'nothing';
  const text = (value: unknown) => (typeof value === 'string' || typeof value === 'number' ? String(value) : JSON.stringify(value));
  if (edit.kind === 'reading') {
    const who = current.who ? `, ${text(current.who)}` : '';
    return `${current.typed ? text(current.typed) : 'taken back'}${who}`;
  }
  if (edit.kind === 'design') return `revision ${text(current.revision)}`;
  return Object.keys(edit.replaces)
    .map((n) => {
      const value = current[n];
      const said = Array.isArray(value) ? value.join(', ') : value === null || value === '' ? 'nothing' : text(value);
      return `${n.replace(/_(rpm|v|hz|a|w|f)$/, '').replaceAll('_', ' ')}: ${said}`;
    })
    .join(', ');
}

type Outcome = { page: JobPageData } | { problem: Problem };

async function send(edit: Edit, from: number | null): Promise<Outcome> {
  let response: Response;
  try {
    response = await fetch(edit.path, {
      method: edit.method,
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ ...edit.body, [edit.versionField]: from }),
    });
  } catch {
    return { problem: OFFLINE };
  }
  const body: unknown = await response.json().catch(() => null);
  if (response.ok && body !== null) return { page: body as JobPageData };
  return { problem: isProblem(body) && response.status !== 502 && response.status !== 504 ? body : OFFLINE };
}

const away = (problem: Problem) => problem.type === 'offline' || problem.type === 'unavailable';

/** The saves of one job, one after the other, and which version each of them led to. */
class Queue {
  private last: Promise<unknown> = Promise.resolve();
  private readonly ledTo = new Map<string, number | null>();

  run<T>(work: () => Promise<T>): Promise<T> {
    const next = this.last.then(work, work);
    this.last = next.catch(() => undefined);
    return next;
  }

  /** Follow our own saves from the version an edit started from to the one they left behind. */
  follow(edit: Edit): number | null {
    let at = edit.from;
    for (let i = 0; i < 1000; i++) {
      const next = this.ledTo.get(`${scope(edit)} ${String(at)}`);
      if (next === undefined) break;
      at = next;
    }
    return at;
  }

  record(edit: Edit, from: number | null, to: number | null) {
    if (from !== to) this.ledTo.set(`${scope(edit)} ${String(from)}`, to);
  }
}

const queues = new Map<number, Queue>();

function queueOf(jobId: number): Queue {
  const found = queues.get(jobId) ?? new Queue();
  queues.set(jobId, found);
  return found;
}

/** What an attempt needs of the screen it was made on. */
interface Screen {
  take: (page: JobPageData) => void;
  refresh: () => Promise<void>;
  onClash: (clash: Clash) => void;
}

async function attempt(edit: Edit, queue: Queue, screen: Screen, version?: number | null): Promise<Problem | null> {
  const from = version === undefined ? queue.follow(edit) : version;
  const outcome = await send(edit, from);
  if ('page' in outcome) {
    queue.record(edit, from, after(edit, outcome.page));
    screen.take(outcome.page);
    return null;
  }
  const { problem } = outcome;
  if (problem.type !== 'stale') return problem;
  const current = (problem.current ?? null) as Stored;
  const stored = VERSION[edit.kind](current);
  if (arrived(edit, current)) {
    queue.record(edit, from, stored);
    await screen.refresh();
    return null;
  }
  if (untouched(edit, current)) return attempt(edit, queue, screen, stored);
  const offer = (mine: string) =>
    screen.onClash({
      what: edit.what,
      mine,
      theirs: theirs(edit, current),
      keepMine: () =>
        void queue
          .run(() => attempt(edit, queue, screen, stored))
          // What cannot be kept is shown again with the reason, not dropped.
          .then((refused) => refused && offer(`${edit.mine} (${refused.detail})`)),
      takeTheirs: () => void screen.refresh(),
    });
  offer(edit.mine);
  return null;
}

/** Saves that answer with the whole job page. A stale one offers both texts; one that cannot be sent waits on this
 * device. Resolves to the problem, or null when saved. */
export function useEdits(jobId: number, onClash: (clash: Clash) => void) {
  const client = useQueryClient();
  const takePage = useTakePage(jobId);
  const screen = useMemo<Screen>(
    () => ({ take: takePage, refresh: () => client.invalidateQueries({ queryKey: jobKey(jobId) }), onClash }),
    [client, jobId, onClash, takePage],
  );

  /** Send what waits for this job, oldest first; stops at the first that cannot be sent. */
  const flush = useCallback(
    () =>
      queueOf(jobId).run(async () => {
        for (const edit of outbox.of(jobId)) {
          const problem = await attempt(edit, queueOf(jobId), screen);
          if (problem && away(problem)) return;
          if (problem) outbox.refuse(edit, problem.detail);
          else outbox.drop(edit.id);
        }
      }),
    [jobId, screen],
  );

  useEffect(() => {
    const go = () => {
      if (outbox.of(jobId).length > 0) void flush();
    };
    go();
    const timer = window.setInterval(go, 2500);
    window.addEventListener('online', go);
    return () => {
      window.clearInterval(timer);
      window.removeEventListener('online', go);
    };
  }, [flush, jobId]);

  return useCallback(
    async (given: NewEdit): Promise<Problem | null> => {
      const edit: Edit = { ...given, id: newId(), jobId };
      const queue = queueOf(jobId);
      // Edits that wait go first, or a later one would overtake an earlier one.
      if (outbox.of(jobId).length > 0) {
        outbox.keep(edit);
        await flush();
        return outbox.of(jobId).some((e) => e.id === edit.id) ? { ...KEPT, current: edit.id } : null;
      }
      const problem = await queue.run(() => attempt(edit, queue, screen));
      if (problem && away(problem)) {
        outbox.keep(edit);
        return { ...KEPT, current: edit.id };
      }
      return problem;
    },
    [flush, jobId, screen],
  );
}

let count = 0;
const newId = () => `${Date.now().toString(36)}-${(count++).toString(36)}-${Math.random().toString(36).slice(2, 8)}`;

/** A reading as an edit, wherever it is taken. */
export function readingEdit(
  jobId: number, label: string, text: string, quantity: string, step: number | null, who: string, newest: number | null,
  more: { run?: number; instrument?: number; aside?: boolean } = {},
): NewEdit {
  return {
    kind: 'reading',
    method: 'POST',
    path: `/api/jobs/${jobId}/readings`,
    body: { quantity, text, who, step, ...more },
    versionField: 'supersedes',
    from: newest,
    replaces: {},
    what: `The reading of ${label}`,
    mine: text || 'taken back',
  };
}
