import { useSyncExternalStore } from 'react';

/** One edit as data, so that it can wait on this device until Fenwit is back. */
export interface Edit {
  id: string;
  jobId: number;
  kind: 'fan' | 'job' | 'reading' | 'design';
  method: 'PATCH' | 'PUT' | 'POST';
  path: string;
  body: Record<string, unknown>;
  /** Of a reading that its path names: the quantity it is kept under. */
  quantity?: string;
  /** Where the version goes in the body. */
  versionField: string;
  /** The version the technician's edit started from. */
  from: number | null;
  /** Stored values that the edit replaces, as they were on screen; another window may have changed them. */
  replaces: Record<string, unknown>;
  what: string;
  mine: string;
}

/** An edit that waited and was then refused: shown until it is dismissed, never dropped unseen. */
export interface Refused {
  id: string;
  jobId: number;
  text: string;
}

const KEY = 'fenwit-outbox';
const REFUSED = 'fenwit-refused';
const listeners = new Set<() => void>();

function read<T>(key: string): T[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(key) ?? '[]');
    return Array.isArray(found) ? (found as T[]) : [];
  } catch {
    return [];
  }
}

let edits = read<Edit>(KEY);
let refusals = read<Refused>(REFUSED);

function changed() {
  localStorage.setItem(KEY, JSON.stringify(edits));
  localStorage.setItem(REFUSED, JSON.stringify(refusals));
  for (const tell of listeners) tell();
}

window.addEventListener('storage', (event) => {
  if (event.key === KEY) edits = read<Edit>(KEY);
  else if (event.key === REFUSED) refusals = read<Refused>(REFUSED);
  else return;
  for (const tell of listeners) tell();
});

export const outbox = {
  all: () => edits,
  /** What another window has kept or sent meanwhile. */
  refresh() {
    edits = read<Edit>(KEY);
    for (const tell of listeners) tell();
  },
  of: (jobId: number) => edits.filter((e) => e.jobId === jobId),
  keep(edit: Edit) {
    edits = [...edits, edit];
    changed();
  },
  drop(id: string) {
    edits = edits.filter((e) => e.id !== id);
    changed();
  },
  refuse(edit: Edit, reason: string) {
    edits = edits.filter((e) => e.id !== edit.id);
    refusals = [...refusals, { id: edit.id, jobId: edit.jobId, text: `${edit.what}, ${edit.mine}: ${reason}` }];
    changed();
  },
  dismiss(id: string) {
    refusals = refusals.filter((r) => r.id !== id);
    changed();
  },
};

function subscribe(tell: () => void) {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

export const useOutbox = () => useSyncExternalStore(subscribe, () => edits);
export const useRefused = () => useSyncExternalStore(subscribe, () => refusals);

/** The body of the last edit that waits for an address of a job: the next edit builds on it, not on what is stored. */
export function usePending(jobId: number, end: string): Record<string, unknown> | null {
  const path = `/api/jobs/${jobId}${end}`;
  return useOutbox().findLast((e) => e.path === path)?.body ?? null;
}
