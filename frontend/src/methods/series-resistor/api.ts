import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData, type Schemas } from '../../api/client';
import type { DesignOf } from '../seam';

export type Resistors = DesignOf<'series-resistor'>;
export type Around = Pick<Schemas['ResistorsAsked'], 'build' | 'enclosure' | 'room'>;

/** Resistors for the wanted speeds on screen, and heat and energy of those looked at. */
export function useResistors(page: JobPageData, wanted: number[] | null, around: Around, design: Resistors | null) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['of-shelf', 'resistors', jobId, page.saved_at, wanted, around, design],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/jobs/{job_id}/resistors', {
          params: { path: { job_id: jobId } },
          body: { ...around, ...(wanted ? { wanted_rpm: wanted } : {}), design },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
    enabled: Boolean(page.frame?.full),
  });
}
