import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSyncExternalStore } from 'react';
import { answer, api, type Schemas } from '../api/client';

export type DeviceShown = Schemas['DeviceShown'];
export type DeviceAnswer = Schemas['DeviceAnswer'];

/** Devices that the settings name. */
export function useDevices() {
  return useQuery({ queryKey: ['devices'], queryFn: ({ signal }) => answer(api.GET('/api/devices', { signal })), staleTime: 60_000 });
}

/** What devices answered in a job, newest first. */
export function useAnswers(jobId: number) {
  return useQuery({
    queryKey: ['answers', jobId],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/answers', { params: { path: { job_id: jobId } }, signal })),
  });
}

/** Tells what hangs on a job that a device was asked: its readings, and the log of answers. */
export function useAsked(jobId: number) {
  const client = useQueryClient();
  return async () => {
    await Promise.all(
      [
        ['job', jobId],
        ['answers', jobId],
        ['plan', jobId],
      ].map((queryKey) => client.invalidateQueries({ queryKey, exact: false })),
    );
  };
}

const KEY = 'fenwit-device';
const listeners = new Set<() => void>();

/** The device in hand, kept on this device of ours; the first that is named where none was picked. */
export function useDeviceInHand(devices: readonly DeviceShown[]): [DeviceShown | null, (name: string) => void] {
  const picked = useSyncExternalStore(
    (told) => {
      listeners.add(told);
      return () => listeners.delete(told);
    },
    () => localStorage.getItem(KEY) ?? '',
  );
  const put = (name: string) => {
    localStorage.setItem(KEY, name);
    listeners.forEach((told) => told());
  };
  return [devices.find((d) => d.name === picked) ?? devices[0] ?? null, put];
}
