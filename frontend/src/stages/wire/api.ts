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

const NO_JSON: Problem = { type: 'input', title: 'Not to be read', status: 0, detail: 'That file cannot be read.', allowed: 'JSON, up to 400 kB' };

/** What a JSON file holds, whole or not at all. */
export async function jsonOf(file: File): Promise<{ document: Record<string, unknown> } | { problem: Problem }> {
  if (file.size > 400_000) return { problem: { ...NO_JSON, detail: 'That file is too large.' } };
  try {
    const document: unknown = JSON.parse(await file.text());
    if (typeof document === 'object' && document !== null && !Array.isArray(document)) return { document: document as Record<string, unknown> };
  } catch {
    // Said below.
  }
  return { problem: NO_JSON };
}

export const wayBetween = (jobId: number, start: number, end: number): Promise<Moment[]> =>
  answer(api.GET('/api/jobs/{job_id}/wire/way', { params: { path: { job_id: jobId }, query: { start, end } } }));
