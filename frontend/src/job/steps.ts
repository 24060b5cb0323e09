import { useCallback } from 'react';
import type { Problem } from '../api/client';
import { usePending } from '../api/outbox';
import { useEdits } from '../api/save';
import { useWho } from '../ui/who';
import { useJobInHand } from './context';

type Wanted = (string | number)[];

const WAITS: Problem = {
  type: 'waits',
  title: 'Not yet',
  status: 0,
  detail: 'A step was added or taken away and waits on this device; more can be changed when Fenwit is back.',
};

/** Save a change of the wanted speeds, typed or dragged; another window's change is offered beside ours. While an
 * earlier change waits on this device the next one builds on it. */
export function useSaveSteps() {
  const { page, onClash } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const { version, wanted_rpm } = page.job;
  const save = useEdits(jobId, onClash);
  const pending = usePending(jobId, '/steps')?.wanted as Wanted | undefined;
  return useCallback(
    async (change: ((now: Wanted) => Wanted) | { even: number }): Promise<Problem | null> => {
      if (pending && pending.length !== wanted_rpm.length) return WAITS;
      const even = 'even' in change ? change.even : null;
      const wanted = 'even' in change ? [] : change(pending ?? wanted_rpm);
      return save({
        kind: 'job',
        method: 'PUT',
        path: `/api/jobs/${jobId}/steps`,
        body: even === null ? { wanted, who } : { even, who },
        versionField: 'version',
        from: version,
        replaces: { wanted_rpm },
        what: 'The wanted speeds',
        mine: even !== null ? `${even} even steps` : `${wanted.map((w) => (typeof w === 'number' ? Math.round(w) : w)).join(', ')} rpm`,
      });
    },
    [jobId, pending, save, version, wanted_rpm, who],
  );
}
