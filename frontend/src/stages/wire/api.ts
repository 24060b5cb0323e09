import { useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData, type Problem, type Schemas } from '../../api/client';
import { useEdits } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { useKeepPart } from '../../job/useKeepPart';
import { useWho } from '../../ui/who';

export type WirePage = Schemas['WirePage'];
export type WireRow = Schemas['WireRow'];
export type Edit = Partial<Schemas['WiringEdit']>;
export type Read = Schemas['ReadShown'];
export type Moment = Schemas['Moment'];
export type SaveWiring = (edit: Edit, mine: string) => Promise<Problem | null>;

/** The circuit with all that follows from it. */
export function useWire(page: JobPageData) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['wire', jobId, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/wire', { params: { path: { job_id: jobId } }, signal })),
    placeholderData: (before) => before,
    retry: false,
  });
}

export function useSaveWiring(): SaveWiring {
  return useKeepPart('wiring', 'The circuit');
}

/** Keeps a tick, what was seen, or ohms; an empty text takes back what stands. */
export function useTake(): (read: Read, what: string, text: string) => Promise<Problem | null> {
  const { page, onClash } = useJobInHand();
  const { who } = useWho();
  const keep = useEdits(page.job.id, onClash);
  return (read, what, text) =>
    keep({
      kind: 'reading',
      method: 'POST',
      path: `/api/jobs/${page.job.id}/wire/readings`,
      body: { what: read.key, text, who },
      quantity: read.key,
      versionField: 'supersedes',
      from: read.reading_id,
      replaces: {},
      what,
      mine: text || 'taken back',
    });
}

export const wayBetween = (jobId: number, start: number, end: number): Promise<Moment[]> =>
  answer(api.GET('/api/jobs/{job_id}/wire/way', { params: { path: { job_id: jobId }, query: { start, end } } }));
