import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData, type Schemas } from '../../api/client';
import type { DesignOf } from '../seam';

export type Duty = DesignOf<'pwm'>;
export type Maker = Duty['maker'];
export type SignalShown = Schemas['SignalShown'];

/** Registers, or the timer over its travel, of the signal that is looked at. */
export function useSignal(page: JobPageData, wanted: number[] | null, design: Duty | null, maker: Maker | null) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['signal', jobId, page.saved_at, wanted, design, maker],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/jobs/{job_id}/signal', {
          params: { path: { job_id: jobId } },
          body: { ...(wanted ? { wanted_rpm: wanted } : {}), design, maker },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
    enabled: Boolean(page.frame?.full),
  });
}

/** What was captured of the lead at a step of the design that stands. */
export function useLeadCaptures(page: JobPageData, step: number) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['lead-captures', jobId, page.saved_at, step],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/lead-captures', { params: { path: { job_id: jobId }, query: { step } }, signal })),
    placeholderData: keepPreviousData,
    enabled: page.design?.method === 'pwm',
  });
}
