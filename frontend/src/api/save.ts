import { createContext, useCallback, useContext, useEffect } from 'react';
import type { Clash } from '../ui/Conflict';
import type { Problem } from './client';
import type { Edit } from './outbox';
import type { Sender } from './sender';

export type NewEdit = Omit<Edit, 'id' | 'jobId'>;

/** A problem that needs doing something about: an edit that waits on this device does not. */
export const unlessKept = (problem: Problem | null) => (problem?.type === 'kept' ? null : problem);

export const SenderContext = createContext<Sender | null>(null);

/** The one sender of the application. */
export function useSender(): Sender {
  const found = useContext(SenderContext);
  if (!found) throw new Error('used outside the application');
  return found;
}

const EVERY_MS = 2500;

/** Send what waits, of whatever job, as soon as Fenwit answers again; once for the whole application. */
export function useSending(sender: Sender) {
  useEffect(() => {
    const go = () => void sender.flushAll();
    go();
    const timer = window.setInterval(go, EVERY_MS);
    window.addEventListener('online', go);
    return () => {
      window.clearInterval(timer);
      window.removeEventListener('online', go);
    };
  }, [sender]);
}

/** Saves that answer with the whole job page. A stale one offers both texts; one that cannot be sent waits on this
 * device. Resolves to the problem, or null when saved. */
export function useEdits(jobId: number, onClash: (clash: Clash) => void) {
  const sender = useSender();
  useEffect(() => sender.show(jobId, onClash), [jobId, onClash, sender]);
  return useCallback((given: NewEdit): Promise<Problem | null> => sender.save({ ...given, id: newId(), jobId }), [jobId, sender]);
}

let count = 0;
const newId = () => `${Date.now().toString(36)}-${(count++).toString(36)}-${Math.random().toString(36).slice(2, 8)}`;

/** A reading as an edit, wherever it is taken. */
export function readingEdit(
  jobId: number,
  label: string,
  text: string,
  quantity: string,
  step: number | null,
  who: string,
  newest: number | null,
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
