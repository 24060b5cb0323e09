import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData } from '../../api/client';
import type { DesignOf } from '../seam';

export type Stepped = DesignOf<'stepped-voltage'>;

/** Transformers for the wanted speeds on screen. */
export function useTransformers(page: JobPageData, wanted: number[] | null, like: Stepped | null) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['transformers', jobId, page.saved_at, wanted, like],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/jobs/{job_id}/transformers', {
          params: { path: { job_id: jobId } },
          body: { ...(wanted ? { wanted_rpm: wanted } : {}), like },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
    enabled: Boolean(page.frame?.full),
  });
}
