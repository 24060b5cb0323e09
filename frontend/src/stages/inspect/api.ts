import { useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData, type Problem, type Schemas } from '../../api/client';
import { useKeepPart } from '../../job/useKeepPart';

export type Shown = Schemas['InspectShown'];
export type Typed = Schemas['BoardTyped'];
export type Edit = Partial<Omit<Schemas['BoardEdit'], 'parts' | 'build'>> & { parts?: PartEdit[]; build?: BuildEdit };
export type PartEdit = Pick<Schemas['BoardPartEdit'], 'role' | 'number'> & Partial<Schemas['BoardPartEdit']>;
export type BuildEdit = Partial<Schemas['BoardBuildEdit']>;
export type Spot = Schemas['SpotShown'];
export type Save = (edit: Edit, mine: string) => Promise<Problem | null>;

/** The control that came in, judged; with a fault supposed in it where one is asked for. */
export function useInspect(page: JobPageData, suppose: string, beside: boolean) {
  const jobId = page.job.id;
  const asked = (quick: boolean) => ({
    queryKey: ['inspect', jobId, page.saved_at, suppose, beside && !quick, quick],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      answer(api.GET('/api/jobs/{job_id}/inspect', { params: { path: { job_id: jobId }, query: { suppose, beside: beside && !quick, quick } }, signal })),
    retry: false,
  });
  // What stood there stays until the new answer has come; at first it comes without its bands.
  const whole = useQuery<Schemas['InspectPage']>({ ...asked(false), placeholderData: (before) => before });
  const first = useQuery<Schemas['InspectPage']>({ ...asked(true), enabled: whole.data === undefined });
  const found = whole.data ?? first.data ?? null;
  return { shown: found?.shown ?? null, typed: found?.typed ?? null, solving: whole.isFetching, error: whole.error };
}

/** Keeps an edit of the board. */
export function useSaveBoard(): Save {
  return useKeepPart('board', 'The control that came in');
}
