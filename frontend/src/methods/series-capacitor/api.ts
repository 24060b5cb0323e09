import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData } from '../../api/client';
import type { DesignOf } from '../seam';

export type Bank = DesignOf<'series-capacitor'>;

/** The ten best banks for the wanted speeds on screen. */
export function useBanks(page: JobPageData, wanted: number[] | null) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['of-shelf', 'banks', jobId, page.job.version, page.fan.version, page.saved_at, wanted],
    queryFn: ({ signal }) =>
      answer(api.POST('/api/jobs/{job_id}/banks', { params: { path: { job_id: jobId } }, body: wanted ? { wanted_rpm: wanted } : {}, signal })),
    placeholderData: keepPreviousData,
    enabled: Boolean(page.frame?.full),
  });
}
