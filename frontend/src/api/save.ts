import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import { answer, jobKey, problemOf, type JobPageData, type Problem } from './client';
import type { Clash } from '../ui/Conflict';

/** One save that starts from a version; `C` is what the server sends back when that version is stale. */
export interface VersionedSave<V, C> {
  /** What carries the version: the fan, the job, one reading, the design. */
  scope: string;
  /** The version the technician's edit started from. */
  from: V;
  send: (from: V) => Promise<{ data?: JobPageData; error?: unknown }>;
  /** The version after this save, to start the next one from. */
  after: (page: JobPageData) => V;
  /** The version to start from when the technician keeps theirs after all. */
  again: (current: C | null) => V;
  /** Whether the other window left alone what is edited here; then both edits can stand. */
  untouched?: (current: C | null) => boolean;
  what: string;
  mine: string;
  theirs: (current: C | null) => string;
}

/** The saves of one job, one after the other, and which version each of them led to. */
class Queue {
  private last: Promise<unknown> = Promise.resolve();
  private readonly ledTo = new Map<string, unknown>();

  run<T>(work: () => Promise<T>): Promise<T> {
    const next = this.last.then(work, work);
    this.last = next.catch(() => undefined);
    return next;
  }

  /** Follow our own saves from the version an edit started from to the one they left behind. */
  follow<V>(scope: string, from: V): V {
    let at = from;
    for (let next = this.ledTo.get(key(scope, at)); next !== undefined; next = this.ledTo.get(key(scope, at))) at = next as V;
    return at;
  }

  record<V>(scope: string, from: V, to: V) {
    if (key(scope, from) !== key(scope, to)) this.ledTo.set(key(scope, from), to);
  }
}

const key = (scope: string, version: unknown) => `${scope} ${JSON.stringify(version)}`;
const queues = new Map<number, Queue>();

function queueOf(jobId: number): Queue {
  const found = queues.get(jobId) ?? new Queue();
  queues.set(jobId, found);
  return found;
}

/** Saves answer with the whole job page; a stale one offers both texts. Resolves to the problem, or null when saved. */
export function useVersionedSave(jobId: number, onClash: (clash: Clash) => void) {
  const client = useQueryClient();
  const [queue] = useState(() => queueOf(jobId));
  return useCallback(
    <V, C>(save: VersionedSave<V, C>): Promise<Problem | null> => {
      const attempt = async (started: V): Promise<Problem | null> => {
        const from = queue.follow(save.scope, started);
        try {
          const page = await answer(save.send(from));
          queue.record(save.scope, from, save.after(page));
          client.setQueryData(jobKey(jobId), page);
          void client.invalidateQueries({ queryKey: ['cards'] });
          return null;
        } catch (error) {
          const problem = problemOf(error);
          if (problem.type !== 'stale') return problem;
          const current = (problem.current ?? null) as C | null;
          if (save.untouched?.(current)) return attempt(save.again(current));
          const offer = (mine: string) =>
            onClash({
              what: save.what,
              mine,
              theirs: save.theirs(current),
              keepMine: () =>
                void queue
                  .run(() => attempt(save.again(current)))
                  // What cannot be kept is shown again with the reason, not dropped.
                  .then((refused) => refused && offer(`${save.mine} (${refused.detail})`)),
              takeTheirs: () => void client.invalidateQueries({ queryKey: jobKey(jobId) }),
            });
          offer(save.mine);
          return null;
        }
      };
      return queue.run(() => attempt(save.from));
    },
    [client, jobId, onClash, queue],
  );
}

interface StoredReading {
  id: number;
  typed: string;
  who: string;
}

/** The parts of a reading's save that are the same wherever it is taken. */
export function readingSave(label: string, typed: string, quantity: string, step: number | null, designId: number | null) {
  return {
    scope: `reading ${quantity} ${step ?? ''} ${designId ?? ''}`,
    after: (page: JobPageData) =>
      page.readings.findLast((r) => r.quantity === quantity && r.step === step && r.design_id === designId)?.id ?? null,
    what: `The reading of ${label}`,
    mine: typed || 'taken back',
    theirs: (current: StoredReading | null) =>
      current ? `${current.typed || 'taken back'}${current.who ? `, ${current.who}` : ''}` : 'nothing',
    again: (current: StoredReading | null) => current?.id ?? null,
  };
}
