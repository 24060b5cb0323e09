import { createContext, useContext, type Dispatch, type SetStateAction } from 'react';
import type { Draft, Frame, JobPageData, Live } from '../api/client';
import type { Clash } from '../ui/Conflict';

/** The job on screen: what is stored of it, what is being tried, and which step is looked at. */
export interface JobInHand {
  page: JobPageData;
  /** The frame on screen: the stored one, with what is live in it while something is tried. */
  frame: Frame;
  selected: number;
  onSelect: (step: number) => void;
  /** What is being tried; numbers are explained as they stand on screen. */
  draft: Draft | null;
  setDraft: Dispatch<SetStateAction<Draft | null>>;
  /** Show on staff and path what another way would do, solved already; null: the job as it is. */
  setBeside: (live: Live | null) => void;
  /** A save that started from an older version. */
  onClash: (clash: Clash) => void;
}

export const JobContext = createContext<JobInHand | null>(null);

/** The job on screen; only inside a job page. */
export function useJobInHand(): JobInHand {
  const found = useContext(JobContext);
  if (!found) throw new Error('used outside a job page');
  return found;
}
