import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData } from '../../api/client';
import type { DesignOf } from '../seam';

export type Taps = DesignOf<'winding-tap'>;

/** Every tap of the motor, and what the design looked at does. */
export function useTaps(page: JobPageData, wanted: number[] | null, design: Taps | null) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['taps', jobId, page.saved_at, wanted, design],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/jobs/{job_id}/taps', {
          params: { path: { job_id: jobId } },
          body: { ...(wanted ? { wanted_rpm: wanted } : {}), design },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
    enabled: Boolean(page.frame?.full),
  });
}
