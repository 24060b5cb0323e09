import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData, type Schemas } from '../../api/client';
import type { DesignOf } from '../seam';

export type Control = DesignOf<'control-voltage'>;
export type Source = NonNullable<Control['source']>;
export type ControlShown = Schemas['ControlShown'];

/** Where the volts come from, and what of them reaches every fan. */
export function useControl(page: JobPageData, wanted: number[] | null, design: Control | null, source: Source) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['control', jobId, page.saved_at, wanted, design, source],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/jobs/{job_id}/control', {
          params: { path: { job_id: jobId } },
          body: { ...(wanted ? { wanted_rpm: wanted } : {}), design, source },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
    enabled: Boolean(page.frame?.full),
  });
}
