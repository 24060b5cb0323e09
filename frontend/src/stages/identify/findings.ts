import type { Problem, Schemas } from '../../api/client';
import { useEdits } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { useWho } from '../../ui/who';

type Findings = Partial<Schemas['FindingsEdit']>;

/** Keep part of what was seen on the motor; the rest stays as it is. */
export function useFindings(): (edit: Findings, mine: string) => Promise<Problem | null> {
  const { page, onClash } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const keep = useEdits(jobId, onClash);
  return (edit, mine) =>
    keep({
      kind: 'fan',
      method: 'PATCH',
      path: `/api/jobs/${jobId}/fan`,
      body: { findings: edit, who },
      versionField: 'version',
      from: page.fan.version,
      replaces: {},
      what: 'What was seen on the motor',
      mine,
    });
}
