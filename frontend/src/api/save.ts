import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { answer, jobKey, problemOf, type JobPageData, type Problem } from './client';
import type { Clash } from '../ui/Conflict';

/** One save that starts from a version; `C` is what the server sends back when that version is stale. */
export interface VersionedSave<V, C> {
  from: V;
  send: (from: V) => Promise<{ data?: JobPageData; error?: unknown }>;
  /** The version to start from when the technician keeps theirs after all. */
  again: (current: C | null) => V;
  what: string;
  mine: string;
  theirs: (current: C | null) => string;
}

/** Saves answer with the whole job page; a stale one offers both texts. Resolves to the problem, or null when saved. */
export function useVersionedSave(jobId: number, onClash: (clash: Clash) => void) {
  const client = useQueryClient();
  return useCallback(
    async <V, C>(save: VersionedSave<V, C>): Promise<Problem | null> => {
      const attempt = async (from: V): Promise<Problem | null> => {
        try {
          const page = await answer(save.send(from));
          client.setQueryData(jobKey(jobId), page);
          void client.invalidateQueries({ queryKey: ['cards'] });
          return null;
        } catch (error) {
          const problem = problemOf(error);
          if (problem.type !== 'stale') return problem;
          const current = (problem.current ?? null) as C | null;
          onClash({
            what: save.what,
            mine: save.mine,
            theirs: save.theirs(current),
            keepMine: () => void attempt(save.again(current)),
            takeTheirs: () => void client.invalidateQueries({ queryKey: jobKey(jobId) }),
          });
          return null;
        }
      };
      return attempt(save.from);
    },
    [client, jobId, onClash],
  );
}

interface StoredReading {
  id: number;
  typed: string;
  who: string;
}

/** The parts of a reading's save that are the same wherever it is taken. */
export function readingClash(label: string, typed: string) {
  return {
    what: `The reading of ${label}`,
    mine: typed || 'taken back',
    theirs: (current: StoredReading | null) =>
      current ? `${current.typed || 'taken back'}${current.who ? `, ${current.who}` : ''}` : 'nothing',
    again: (current: StoredReading | null) => current?.id ?? null,
  };
}
