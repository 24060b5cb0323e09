import { useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData, type Problem, type Schemas } from '../../api/client';
import { useKeepPart } from '../../job/useKeepPart';

export type AirShown = Schemas['AirShown'];
export type AirTyped = Schemas['AirEdit'];
export type SaveAir = (edit: AirTyped, mine: string) => Promise<Problem | null>;

/** What is typed of the air, and what flows at every step. */
export function useAir(page: JobPageData) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['air', jobId, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/air', { params: { path: { job_id: jobId } }, signal })),
    placeholderData: (before) => before,
  });
}

/** Keeps what is known of the air. */
export function useSaveAir(): SaveAir {
  return useKeepPart('air', 'What is known of the air');
}
