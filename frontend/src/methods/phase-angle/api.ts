import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, type JobPageData } from '../../api/client';
import type { paths } from '../../api/schema';
import type { Control, FiringAsked } from './query';

export type KnobAsked = NonNullable<paths['/api/jobs/{job_id}/knob']['get']['parameters']['query']>;

/** What phase angle does: firing curve, steps with bands, one step's waveforms, the parts around the triac. */
export function usePhase(page: JobPageData, step: number, design: Control) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['phase', jobId, page.saved_at, step, design],
    queryFn: ({ signal }) => answer(api.POST('/api/jobs/{job_id}/phase', { params: { path: { job_id: jobId } }, body: { step, design }, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** A firing table on screen. */
export function useFiring(page: JobPageData, asked: FiringAsked, good: boolean) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['firing', jobId, page.saved_at, asked],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/firing', { params: { path: { job_id: jobId }, query: asked }, signal })),
    placeholderData: keepPreviousData,
    retry: false,
    enabled: good,
  });
}

/** Captures that were kept with a step, newest first. */
export function useCaptures(page: JobPageData, step: number) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['captures', jobId, page.saved_at, step],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/captures', { params: { path: { job_id: jobId }, query: { step } }, signal })),
    placeholderData: keepPreviousData,
    enabled: page.design?.method === 'phase-angle',
  });
}

/** A knob with a diac network: speed both ways, snap-on, cures, tolerance, scale. */
export function useKnob(page: JobPageData, asked: KnobAsked) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['knob', jobId, page.saved_at, asked],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/knob', { params: { path: { job_id: jobId }, query: asked }, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export function useProposals(page: JobPageData, wanted: boolean) {
  const jobId = page.job.id;
  return useQuery({
    queryKey: ['proposals', jobId, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/proposals', { params: { path: { job_id: jobId } }, signal })),
    enabled: wanted,
    retry: false,
  });
}
