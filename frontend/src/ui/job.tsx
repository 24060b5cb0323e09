import { createContext, useContext } from 'react';
import type { Draft } from '../api/client';

interface JobInHand {
  jobId: number;
  savedAt: string;
  /** What is being tried; numbers are explained as they stand on screen. */
  draft: Draft | null;
}

export const JobContext = createContext<JobInHand>({ jobId: 0, savedAt: '', draft: null });
export const useJobInHand = () => useContext(JobContext);
