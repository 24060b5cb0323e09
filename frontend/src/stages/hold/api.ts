import { useCallback } from 'react';
import { useQuery } from '@tanstack/react-query';
import { answer, api, useNewest, type JobPageData, type Problem, type Schemas } from '../../api/client';
import { useKeepPart } from '../../job/useKeepPart';

export type HoldTyped = Schemas['HoldEdit'];
export type LoopTyped = Schemas['LoopEdit'];
export type HeatTyped = Schemas['HeatEdit'];
export type SinkTyped = Schemas['SinkEdit'];
export type LoopShown = Schemas['LoopShown'];
export type CoolingShown = Schemas['CoolingShown'];
export type HoldPage = Schemas['HoldPage'];
export type SaveHold = (edit: HoldTyped, mine: string) => Promise<Problem | null>;

/** What the fan holds, as it is stored. */
export function useHold(page: JobPageData) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['hold', jobId, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/hold', { params: { path: { job_id: jobId } }, signal })),
    placeholderData: (before) => before,
    retry: false,
  });
}

/** What it would be with other settings, while they are dragged. */
export function useTried(jobId: number, draft: HoldTyped | null): { page: HoldPage | null; problem: Problem | null } {
  const ask = useCallback((body: HoldTyped) => answer(api.POST('/api/jobs/{job_id}/hold', { params: { path: { job_id: jobId } }, body })), [jobId]);
  const { result, problem } = useNewest(draft, ask);
  return { page: result, problem };
}

/** Keeps what the fan holds. */
export function useSaveHold(): SaveHold {
  return useKeepPart('hold', 'What the fan holds');
}
