import type { Problem } from '../api/client';
import { useEdits } from '../api/save';
import { useWho } from '../ui/who';
import { useJobInHand } from './context';

type Part = 'air' | 'board' | 'commanded' | 'hold' | 'wiring';

/** Keeps one part of a job's sheet, beside whatever else of it is edited meanwhile; what an edit leaves out stays. */
export function useKeepPart<E extends object>(part: Part, what: string): (edit: E, mine: string) => Promise<Problem | null> {
  const { page, onClash } = useJobInHand();
  const { who } = useWho();
  const keep = useEdits(page.job.id, onClash);
  return (edit, mine) =>
    keep({
      kind: 'job',
      method: 'PATCH',
      path: `/api/jobs/${page.job.id}`,
      body: { [part]: edit, who },
      versionField: 'version',
      from: page.job.version,
      replaces: { [part]: page.job[part] },
      what,
      mine,
    });
}
