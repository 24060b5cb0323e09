import { keepPreviousData, useMutation, useQuery, useQueryClient, type UseMutationResult } from '@tanstack/react-query';
import createClient from 'openapi-fetch';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type JobPageData = Schemas['JobPage'];
export type Frame = Schemas['Frame'];
export type Live = Schemas['Live'];
export type Mark = Schemas['Mark'];
export type Zone = Schemas['Zone'];
export type Problem = Schemas['Problem'];
export type Caution = Schemas['Caution'];
export type StageKey = Schemas['Stage'];
export type Draft = Schemas['Tried'];

export const api = createClient<paths>({ baseUrl: '/' });

/** A refusal of the server, or the reason why it could not be asked. */
export class Refusal extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

export const OFFLINE: Problem = {
  type: 'offline',
  title: 'Not saved',
  status: 0,
  detail: 'Fenwit does not answer. What you typed is still here; try again when it is back.',
};

type Answer<T> = { data?: T; error?: unknown };

/** Wait for an answer; anything but data becomes a Refusal. */
export async function answer<T>(asked: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await asked;
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error;
    throw new Refusal(OFFLINE);
  }
  if (got.data !== undefined) return got.data;
  throw new Refusal(isProblem(got.error) ? got.error : OFFLINE);
}

export function isProblem(value: unknown): value is Problem {
  return typeof value === 'object' && value !== null && 'detail' in value && 'status' in value;
}

export function problemOf(error: unknown): Problem {
  return error instanceof Refusal ? error.problem : OFFLINE;
}

export const jobKey = (jobId: number) => ['job', jobId] as const;

export function useJob(jobId: number) {
  return useQuery({
    queryKey: jobKey(jobId),
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}', { params: { path: { job_id: jobId } }, signal })),
    refetchInterval: 20_000,
  });
}

/** The report as a page, fetched to be shown in a frame without scripts. */
export function useReport(jobId: number, query: string, savedAt: string) {
  return useQuery({
    queryKey: ['report', jobId, query, savedAt],
    enabled: savedAt !== '',
    queryFn: async ({ signal }) => {
      const found = await fetch(`/api/jobs/${jobId}/report.html${query}`, { signal });
      if (found.ok) return found.text();
      const said: unknown = await found.json().catch(() => null);
      throw new Refusal(isProblem(said) ? said : OFFLINE);
    },
  });
}

/** Jobs in hand by what they wait for and what is written on them, one page after another. */
export function useCards(kind: string | null, find: string, after: number) {
  return useQuery({
    queryKey: ['cards', kind, find, after],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs', { params: { query: { find, after, ...(kind ? { kind } : {}) } }, signal })),
    placeholderData: keepPreviousData,
    // While cards are made anew in the background their progress is shown.
    refetchInterval: (query) => (query.state.data?.renewing ? 2_000 : false),
  });
}

export function useKinds() {
  return useQuery({
    queryKey: ['kinds'],
    queryFn: ({ signal }) => answer(api.GET('/api/kinds', { signal })),
    staleTime: Infinity,
  });
}

export function useClasses() {
  return useQuery({
    queryKey: ['classes'],
    queryFn: ({ signal }) => answer(api.GET('/api/shelf/classes', { signal })),
    staleTime: Infinity,
  });
}

export function useShelf() {
  return useQuery({ queryKey: ['shelf'], queryFn: ({ signal }) => answer(api.GET('/api/shelf', { signal })) });
}

export function useTables(page: JobPageData, open: boolean) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['tables', jobId, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/tables', { params: { path: { job_id: jobId } }, signal })),
    enabled: open,
    placeholderData: keepPreviousData,
  });
}

export type Complaint = Schemas['Complaint'];

/** Kinds by evidence, leads, taps and methods. */
export function useIdentify(page: JobPageData) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['identify', jobId, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/identify', { params: { path: { job_id: jobId } }, signal })),
    placeholderData: keepPreviousData,
  });
}

/** The capacitor check, with what would explain a complaint. */
export function useCapacitors(page: JobPageData, complaint: Complaint | null, step: number) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['capacitors', jobId, page.saved_at, complaint, step],
    queryFn: ({ signal }) =>
      answer(
        api.GET('/api/jobs/{job_id}/capacitors', {
          params: { path: { job_id: jobId }, query: complaint ? { complaint, step } : {} },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** Readings against the model, torque curves, how the band of a step shrank, what to read next. */
export function useStudy(page: JobPageData, step: number) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['study', jobId, page.saved_at, step],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/study', { params: { path: { job_id: jobId }, query: { step } }, signal })),
    placeholderData: keepPreviousData,
  });
}

/** Speed over the setting of a method: what it can do with this fan at all. */
export function useReach(page: JobPageData, method: NonNullable<Draft['method']>) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['reach', jobId, page.job.version, page.fan.version, page.saved_at, method],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/reach', { params: { path: { job_id: jobId }, query: { method } }, signal })),
    placeholderData: keepPreviousData,
    enabled: Boolean(page.frame?.full),
  });
}

export function useInstruments() {
  return useQuery({ queryKey: ['instruments'], queryFn: ({ signal }) => answer(api.GET('/api/instruments', { signal })) });
}

export type Save<V> = UseMutationResult<JobPageData, Error, V>;

/** Put a job page that came back from a save on screen, and let what hangs on it be fetched anew. */
export function useTakePage(jobId: number) {
  const client = useQueryClient();
  return useCallback(
    (page: JobPageData) => {
      client.setQueryData(jobKey(jobId), page);
      void client.invalidateQueries({ queryKey: ['cards'] });
      void client.invalidateQueries({ queryKey: ['shelf'] });
    },
    [client, jobId],
  );
}

/** A save whose answer is the job page: it replaces the one on screen. */
export function useSave<V>(jobId: number, save: (value: V) => Promise<Answer<JobPageData>>): Save<V> {
  const take = useTakePage(jobId);
  return useMutation({ mutationFn: (value: V) => answer(save(value)), onSuccess: take });
}

interface Tried<R> {
  result: R | null;
  problem: Problem | null;
}

/** The answer to what is dragged or tried: one request at a time, and always the latest draft last. Give a stable `ask`. */
export function useNewest<D extends object, R>(draft: D | null, ask: (draft: D) => Promise<R>): Tried<R> {
  const [tried, setTried] = useState<Tried<R> | null>(null);
  const latest = useRef<D | null>(null);
  const busy = useRef(false);
  useEffect(() => {
    latest.current = draft;
    if (!draft || busy.current) return;
    const run = async () => {
      busy.current = true;
      try {
        for (let asked = latest.current; asked;) {
          const now: D = asked;
          try {
            setTried({ result: await ask(now), problem: null });
          } catch (error) {
            setTried({ result: null, problem: problemOf(error) });
          }
          asked = latest.current === now ? null : latest.current;
        }
      } finally {
        busy.current = false;
      }
    };
    void run();
  }, [ask, draft]);
  return (draft && tried) || { result: null, problem: null };
}

/** What is being dragged or tried, solved. */
export function useLive(jobId: number, draft: Draft | null): { live: Live | null; problem: Problem | null } {
  const ask = useCallback((body: Draft) => answer(api.POST('/api/jobs/{job_id}/live', { params: { path: { job_id: jobId } }, body })), [jobId]);
  const { result, problem } = useNewest(draft, ask);
  return { live: result, problem };
}
