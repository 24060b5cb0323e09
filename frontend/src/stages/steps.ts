import { useCallback } from 'react';
import { api, type JobPageData, type Problem } from '../api/client';
import { useVersionedSave } from '../api/save';
import type { Clash } from '../ui/Conflict';

const same = (a: number[], b: number[]) => a.length === b.length && a.every((x, i) => x === b[i]);

/** Save the wanted speeds, typed or dragged; another window's change is offered beside ours. */
export function useSaveSteps(page: JobPageData, onClash: (clash: Clash) => void) {
  const jobId = page.job.id;
  const from = page.job.version;
  const save = useVersionedSave(jobId, onClash);
  return useCallback(
    (wanted: (string | number)[]): Promise<Problem | null> =>
      save({
        scope: 'job',
        from,
        after: (saved) => saved.job.version,
        untouched: (current) => current !== null && same(current.wanted_rpm, page.job.wanted_rpm),
        send: (version: number) =>
          api.PUT('/api/jobs/{job_id}/steps', { params: { path: { job_id: jobId } }, body: { version, wanted } }),
        again: (current: { version: number; wanted_rpm: number[] } | null) => current?.version ?? from,
        what: 'The wanted speeds',
        mine: `${wanted.map((w) => (typeof w === 'number' ? Math.round(w) : w)).join(', ')} rpm`,
        theirs: (current) => `${current?.wanted_rpm.join(', ') ?? ''} rpm`,
      }),
    [from, jobId, page.job.wanted_rpm, save],
  );
}
