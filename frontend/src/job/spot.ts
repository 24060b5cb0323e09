import { useCallback, useEffect, type KeyboardEvent } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { api, useSave, type Schemas } from '../api/client';
import { useWho } from '../ui/who';

export type Spot = Schemas['Spot'];

/** The element a field of the job is typed in. */
export const fieldId = (field: string) => field.replaceAll(':', '-');

export const pathOf = (jobId: number, spot: Spot) => `/jobs/${jobId}/${spot.stage}${spot.part && spot.part !== 'nameplate' ? `?part=${spot.part}` : ''}`;

/** What a link to a spot carries along, so that the page lands there. */
export interface Landing {
  at: string;
}

const FIELDS = 'input:not([type=file]):not(:disabled), textarea:not(:disabled)';
const PATIENCE_MS = 8000;

/** The field somebody wanted to go to when a caution stood before it. */
let wanted: string | null = null;

const visible = (e: HTMLElement) => e.offsetParent !== null;

function enter(e: HTMLElement) {
  e.focus();
  if (e instanceof HTMLInputElement || e instanceof HTMLTextAreaElement) e.select();
  e.scrollIntoView({ block: 'nearest' });
}

/** Do something as soon as it can be done; the page may still be drawing. */
function soon(attempt: () => boolean) {
  if (attempt()) return;
  const watch = new MutationObserver(() => {
    if (attempt()) stop();
  });
  const timer = window.setTimeout(stop, PATIENCE_MS);
  // Whoever goes on meanwhile is not called back.
  const user = ['pointerdown', 'keydown'] as const;
  function stop() {
    watch.disconnect();
    window.clearTimeout(timer);
    for (const kind of user) window.removeEventListener(kind, stop, true);
  }
  for (const kind of user) window.addEventListener(kind, stop, true);
  watch.observe(document.body, { childList: true, subtree: true, attributes: true, attributeFilter: ['disabled', 'open'] });
}

const gates = () => [...document.querySelectorAll<HTMLElement>('#stage [data-gate]')].filter(visible);
const inGate = (gate: HTMLElement | undefined) => {
  const fields = [...(gate?.querySelectorAll<HTMLElement>('input, button') ?? [])];
  return fields.find((f) => f instanceof HTMLInputElement && f.value === '') ?? fields[fields.length - 1];
};

/** Put the focus into a field, unfolding what hides it; where a caution stands before it, into the caution. */
export function land(field: string) {
  soon(() => {
    const at = document.getElementById(fieldId(field));
    if (!at) return false;
    for (let fold = at.closest('details'); fold; fold = fold.parentElement?.closest('details') ?? null) fold.open = true;
    const target = at.matches('input, textarea, select, button, a[href]') ? at : (at.querySelector<HTMLElement>('button, input') ?? at);
    const first = target.matches(':disabled') ? inGate(gates()[0]) : undefined;
    wanted = first ? field : null;
    enter(first ?? target);
    return true;
  });
}

/** After a caution was met: to what it opened, to the next one, to the field that was wanted, or to the first still empty. */
export function goOn(met: HTMLElement, opened?: string) {
  soon(() => {
    if (met.isConnected) return false;
    if (opened) {
      land(opened);
      return true;
    }
    const next = inGate(gates()[0]);
    if (next) {
      enter(next);
    } else if (wanted) {
      land(wanted);
    } else {
      const empty = [...document.querySelectorAll<HTMLInputElement>(`#stage :is(${FIELDS})`)].find((e) => visible(e) && e.value === '');
      if (empty) enter(empty);
    }
    return true;
  });
}

/** Enter: to the field that follows, its text selected so that typing takes its place. */
export function walkOn(from: HTMLElement): boolean {
  const room = from.closest('[data-walk], form, [role="dialog"], #stage') ?? document.body;
  const fields = [...room.querySelectorAll<HTMLElement>(FIELDS)].filter(visible);
  const next = fields[fields.indexOf(from) + 1];
  if (next) enter(next);
  return Boolean(next);
}

/** In a form of many fields Enter goes on, and sends it from the last one. */
export function walkBeforeSending(event: KeyboardEvent<HTMLInputElement>) {
  if (event.key === 'Enter' && walkOn(event.currentTarget)) event.preventDefault();
}

/** Lands where a link pointed to, each time one is followed. */
export function useLanding() {
  const { key, state } = useLocation() as { key: string; state: Landing | null };
  const at = state?.at;
  useEffect(() => {
    if (at) land(at);
  }, [at, key]);
}

/** Goes to a spot of the job, opening the run it needs. */
export function useGo(jobId: number) {
  const navigate = useNavigate();
  const { who } = useWho();
  const { mutateAsync: open } = useSave(jobId, (run: { what: string; text: string }) =>
    api.POST('/api/jobs/{job_id}/runs', { params: { path: { job_id: jobId } }, body: { ...run, who } }),
  );
  return useCallback(
    async (spot: Spot) => {
      let field = spot.field ?? '';
      if (spot.new_run) {
        const saved = await open(spot.new_run);
        field = `run:${saved.runs[saved.runs.length - 1]?.id ?? 0}:${field}`;
      }
      const state: Landing | null = field ? { at: field } : null;
      void navigate(pathOf(jobId, spot), { state });
    },
    [jobId, navigate, open],
  );
}
