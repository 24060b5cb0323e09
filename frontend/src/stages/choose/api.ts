import { useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData, type Schemas } from '../../api/client';

export type Shown = Schemas['ChooseShown'];
export type Row = Schemas['ChooseRow'];
export type Wish = Schemas['WishShown'];

/** Every way side by side; what is ready stands there while the rest is still solved. */
export function useChoose(page: JobPageData): { shown: Shown | null; solving: boolean; error: Error | null } {
  const jobId = page.job.id;
  const asked = (quick: boolean) => ({
    queryKey: ['choose', jobId, page.saved_at, quick],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      answer(api.GET('/api/jobs/{job_id}/choose', { params: { path: { job_id: jobId }, query: { quick } }, signal })),
    retry: false,
  });
  const whole = useQuery({ ...asked(false), placeholderData: (before: Shown | undefined) => before });
  // Once something whole is there, the old order stands until the new one has come.
  const first = useQuery({ ...asked(true), enabled: whole.data === undefined });
  return { shown: whole.data ?? first.data ?? null, solving: whole.isFetching, error: whole.error };
}
