import type { QueryClient } from '@tanstack/react-query';
import type { Clash } from '../ui/Conflict';
import { isProblem, jobKey, OFFLINE, type JobPageData, type Problem } from './client';
import { outbox, type Edit } from './outbox';

/** What the field shows while its edit waits on this device. */
export const KEPT: Problem = {
  type: 'kept',
  title: 'Kept here',
  status: 0,
  detail: 'Kept on this device; sent when Fenwit is back.',
};

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
  return page.readings.findLast((r) => r.quantity === quantityOf(edit) && r.step === step && r.run_id === run && r.design_id === filed)?.id ?? null;
}

const quantityOf = (edit: Edit) => edit.quantity ?? edit.body.quantity;

const scope = (edit: Edit) => (edit.kind === 'reading' ? `reading ${JSON.stringify([quantityOf(edit), edit.body.step, edit.body.run ?? null])}` : edit.kind);

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Whether the other window left alone what is edited here; then both edits can stand. */
function untouched(edit: Edit, current: Stored): boolean {
  const names = Object.keys(edit.replaces);
  return names.length > 0 && current !== null && names.every((n) => same(current[n], edit.replaces[n]));
}

/** Whether the stored version is this very edit: it arrived, only its answer was lost. */
function arrived(edit: Edit, current: Stored): boolean {
  const words = Object.keys(edit.replaces).filter((n) => typeof edit.body[n] === 'string');
  if ((edit.kind === 'fan' || edit.kind === 'job') && words.length > 0 && words.length === Object.keys(edit.replaces).length) {
    return current !== null && words.every((n) => same(current[n], edit.body[n]));
  }
  return (
    edit.kind === 'reading' &&
    current !== null &&
    current.typed === edit.body.text &&
    current.who === edit.body.who &&
    current.aside === (edit.body.aside ?? false)
  );
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

/** Only one window sends what waits; where the browser cannot say so, each does, and the server tells twins apart. */
function alone<T>(work: () => Promise<T>): Promise<T> {
  return 'locks' in navigator ? (navigator.locks.request('fenwit-outbox', work) as Promise<T>) : work();
}

/** Sends every save of the application, of whatever job: at once, or from the outbox when Fenwit is back. */
export class Sender {
  private readonly queues = new Map<number, Queue>();
  /** Jobs on screen: they are asked when both texts have to be shown. */
  private readonly screens = new Map<number, (clash: Clash) => void>();
  private sending = false;

  constructor(private readonly queries: QueryClient) {}

  private queueOf(jobId: number): Queue {
    const found = this.queues.get(jobId) ?? new Queue();
    this.queues.set(jobId, found);
    return found;
  }

  /** A job came on screen; call what is returned when it leaves. */
  show(jobId: number, onClash: (clash: Clash) => void): () => void {
    this.screens.set(jobId, onClash);
    return () => {
      if (this.screens.get(jobId) === onClash) this.screens.delete(jobId);
    };
  }

  /** Put a job page that came back from a save on screen, and let what hangs on it be fetched anew. */
  take(jobId: number, page: JobPageData) {
    this.queries.setQueryData(jobKey(jobId), page);
    void this.queries.invalidateQueries({ queryKey: ['cards'] });
    void this.queries.invalidateQueries({ queryKey: ['shelf'] });
  }

  /** Save an edit, after those that wait; resolves to the problem, or null when saved. */
  async save(edit: Edit): Promise<Problem | null> {
    const queue = this.queueOf(edit.jobId);
    // Edits that wait go first, or a later one would overtake an earlier one.
    if (outbox.of(edit.jobId).length > 0) {
      outbox.keep(edit);
      await this.flush(edit.jobId);
      return outbox.of(edit.jobId).some((e) => e.id === edit.id) ? { ...KEPT, current: edit.id } : null;
    }
    const problem = await queue.run(() => this.attempt(edit));
    if (problem && away(problem)) {
      outbox.keep(edit);
      return { ...KEPT, current: edit.id };
    }
    return problem;
  }

  /** Send what waits of every job, oldest first; stops at the first that cannot be sent. */
  async flushAll(): Promise<void> {
    if (this.sending || outbox.all().length === 0) return;
    this.sending = true;
    try {
      for (const jobId of new Set(outbox.all().map((e) => e.jobId))) {
        if (!(await this.flush(jobId))) return;
      }
    } finally {
      this.sending = false;
    }
  }

  /** Send what waits for one job; false while Fenwit does not answer. */
  private flush(jobId: number): Promise<boolean> {
    const queue = this.queueOf(jobId);
    return queue.run(() =>
      alone(async () => {
        outbox.refresh();
        for (const edit of outbox.of(jobId)) {
          const problem = await this.attempt(edit);
          if (problem && away(problem)) return false;
          if (problem) outbox.refuse(edit, problem.detail);
          else outbox.drop(edit.id);
        }
        return true;
      }),
    );
  }

  private refresh(jobId: number) {
    return this.queries.invalidateQueries({ queryKey: jobKey(jobId) });
  }

  private async attempt(edit: Edit, version?: number | null): Promise<Problem | null> {
    const queue = this.queueOf(edit.jobId);
    const from = version === undefined ? queue.follow(edit) : version;
    const outcome = await send(edit, from);
    if ('page' in outcome) {
      queue.record(edit, from, after(edit, outcome.page));
      this.take(edit.jobId, outcome.page);
      return null;
    }
    const { problem } = outcome;
    if (problem.type !== 'stale') return problem;
    const current = (problem.current ?? null) as Stored;
    const stored = VERSION[edit.kind](current);
    if (arrived(edit, current)) {
      queue.record(edit, from, stored);
      await this.refresh(edit.jobId);
      return null;
    }
    if (untouched(edit, current)) return this.attempt(edit, stored);
    const onClash = this.screens.get(edit.jobId);
    // Nobody looks at that job: both texts stay, and are told when it is opened.
    if (!onClash) return { ...problem, detail: `changed meanwhile elsewhere to ${theirs(edit, current)}` };
    const offer = (mine: string) =>
      onClash({
        what: edit.what,
        mine,
        theirs: theirs(edit, current),
        keepMine: () =>
          void queue
            .run(() => this.attempt(edit, stored))
            // What cannot be kept is shown again with the reason, not dropped.
            .then((refused) => refused && offer(`${edit.mine} (${refused.detail})`)),
        takeTheirs: () => void this.refresh(edit.jobId),
      });
    offer(edit.mine);
    return null;
  }
}
