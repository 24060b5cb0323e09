import { useCallback } from 'react';
import type { JobPageData, Problem } from '../api/client';
import { useEdits } from '../api/save';
import type { Clash } from '../ui/Conflict';
import { useWho } from '../ui/who';

/** Save the wanted speeds, typed or dragged; another window's change is offered beside ours. */
export function useSaveSteps(page: JobPageData, onClash: (clash: Clash) => void) {
  const { who } = useWho();
  const jobId = page.job.id;
  const { version, wanted_rpm } = page.job;
  const save = useEdits(jobId, onClash);
  return useCallback(
    (wanted: (string | number)[]): Promise<Problem | null> =>
      save({
        kind: 'job',
        method: 'PUT',
        path: `/api/jobs/${jobId}/steps`,
        body: { wanted, who },
        versionField: 'version',
        from: version,
        replaces: { wanted_rpm },
        what: 'The wanted speeds',
        mine: `${wanted.map((w) => (typeof w === 'number' ? Math.round(w) : w)).join(', ')} rpm`,
      }),
    [jobId, save, version, wanted_rpm, who],
  );
}
