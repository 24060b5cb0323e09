import { useCallback, useState } from 'react';
import type { Problem, Schemas } from '../../api/client';
import { unlessKept, useEdits } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { useWho } from '../../ui/who';
import type { DesignEdit } from '../seam';

/** Keeping a design as the job's next revision, and saving what is decided beside it; with what was refused. */
export function useDesign() {
  const { page, setDraft, onClash } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const save = useEdits(jobId, onClash);
  const [problem, setProblem] = useState<Problem | null>(null);

  const keep = useCallback(
    async (design: DesignEdit, words: { what: string; mine: string; name?: string }): Promise<Problem | null> => {
      const refused = await save({
        kind: 'design',
        method: 'POST',
        path: `/api/jobs/${jobId}/designs`,
        body: { design, who, name: words.name ?? '' },
        versionField: 'after_revision',
        from: page.last_revision,
        replaces: {},
        what: words.what,
        mine: words.mine,
      });
      setProblem(unlessKept(refused));
      if (!unlessKept(refused)) setDraft(null);
      return refused;
    },
    [jobId, page.last_revision, save, setDraft, who],
  );

  const saveJob = useCallback(
    (edit: Pick<Schemas['JobEdit'], 'profile' | 'sizing'>, what: string): Promise<Problem | null> =>
      save({
        kind: 'job',
        method: 'PATCH',
        path: `/api/jobs/${jobId}`,
        body: { ...edit, who },
        versionField: 'version',
        from: page.job.version,
        replaces: edit.profile ? { profile: page.job.profile } : { sizing: page.job.sizing },
        what,
        mine: Object.entries(edit.profile ?? edit.sizing ?? {})
          .map(([k, v]) => `${k.replaceAll('_', ' ')}: ${typeof v === 'object' ? JSON.stringify(v) : String(v)}`)
          .join(', '),
      }),
    [jobId, page.job.profile, page.job.sizing, page.job.version, save, who],
  );

  return { keep, saveJob, problem, setProblem };
}
