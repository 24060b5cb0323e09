import { useMutation, useQuery, useQueryClient, type UseMutationResult } from '@tanstack/react-query';
import createClient from 'openapi-fetch';
import { useEffect, useRef, useState } from 'react';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type JobPageData = Schemas['JobPage'];
export type Frame = Schemas['Frame'];
export type Mark = Schemas['Mark'];
export type Zone = Schemas['Zone'];
export type Problem = Schemas['Problem'];
export type Caution = Schemas['Caution'];
export type StageKey = Schemas['Stage'];
export type Draft = Schemas['Live'];

export const api = createClient<paths>({ baseUrl: '/' });

/** A refusal of the server, or the reason why it could not be asked. */
export class Refusal extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

const OFFLINE: Problem = {
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

function isProblem(value: unknown): value is Problem {
  return typeof value === 'object' && value !== null && 'detail' in value && 'status' in value;
}

export function problemOf(error: unknown): Problem {
  return error instanceof Refusal ? error.problem : OFFLINE;
}

export const jobKey = (jobId: number) => ['job', jobId] as const;

export function useJob(jobId: number) {
  return useQuery({
    queryKey: jobKey(jobId),
    queryFn: ({ signal }) =>
      answer(api.GET('/api/jobs/{job_id}', { params: { path: { job_id: jobId } }, signal })),
    refetchInterval: 20_000,
  });
}

export function useCards() {
  return useQuery({
    queryKey: ['cards'],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs', { signal })),
  });
}

export function useKinds() {
  return useQuery({
    queryKey: ['kinds'],
    queryFn: ({ signal }) => answer(api.GET('/api/kinds', { signal })),
    staleTime: Infinity,
  });
}

export type Save<V> = UseMutationResult<JobPageData, Error, V>;

/** A save whose answer is the job page: it replaces the one on screen. */
export function useSave<V>(jobId: number, save: (value: V) => Promise<Answer<JobPageData>>): Save<V> {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (value: V) => answer(save(value)),
    onSuccess: (page) => {
      client.setQueryData(jobKey(jobId), page);
      void client.invalidateQueries({ queryKey: ['cards'] });
    },
  });
}

/** The frame of what is being dragged: one request at a time, and always the latest draft last. */
export function useLiveFrame(jobId: number, draft: Draft | null): { frame: Frame | null; problem: Problem | null } {
  const [result, setResult] = useState<{ of: Draft; frame: Frame | null; problem: Problem | null } | null>(null);
  const latest = useRef<Draft | null>(null);
  const busy = useRef(false);
  useEffect(() => {
    latest.current = draft;
    if (!draft || busy.current) return;
    const run = async () => {
      busy.current = true;
      try {
        for (let asked = latest.current; asked; ) {
          const now: Draft = asked;
          try {
            const frame = await answer(
              api.POST('/api/jobs/{job_id}/live', { params: { path: { job_id: jobId } }, body: now }),
            );
            setResult({ of: now, frame, problem: null });
          } catch (error) {
            setResult({ of: now, frame: null, problem: problemOf(error) });
          }
          asked = latest.current === now ? null : latest.current;
        }
      } finally {
        busy.current = false;
      }
    };
    void run();
  }, [jobId, draft]);
  if (!draft || !result) return { frame: null, problem: null };
  return { frame: result.frame, problem: result.problem };
}
