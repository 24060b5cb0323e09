import { Popover } from 'radix-ui';
import { useRef, useState, type ReactNode } from 'react';
import { api, isProblem, OFFLINE, useTakePage, type Problem, type Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { when } from '../../ui/when';
import { useWho } from '../../ui/who';

interface Shown {
  found: Schemas['Found'][];
  words: string[];
}
interface Answer<S> {
  shown: S;
  understood: string;
  kept: string[];
  not_kept: string[];
}

interface Props<S extends Shown> {
  step: number;
  /** Where a capture is sent to, under the job. */
  to: 'captures' | 'lead-captures';
  kept: readonly { id: number; name: string; who: string; at: string; shown: S }[] | undefined;
  /** What must be minded before the probe is clipped on. */
  caution: string;
  /** What the file holds. */
  hint: string;
  /** Why nothing can be kept; null where it can. */
  notYet: string | null;
  /** Drawn above the values. */
  picture?: (shown: S) => ReactNode;
  /** Lays a capture over what is drawn elsewhere. */
  setOver?: (shown: S | null) => void;
}

/** A scope's CSV read at a step; what is read from it can be kept as readings of that step. */
export function ScopeCapture<S extends Shown>({ step, to, kept, caution, hint, notYet, picture, setOver }: Props<S>) {
  const { page } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const take = useTakePage(jobId);
  const file = useRef<File | null>(null);
  const [probe, setProbe] = useState('1');
  const [swap, setSwap] = useState(false);
  const [read, setRead] = useState<Answer<S> | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const [looked, setLooked] = useState<number | null>(null);

  async function ask(keep: boolean, factor = probe, other = swap) {
    if (!file.current) return;
    setBusy(true);
    setProblem(null);
    try {
      const query = new URLSearchParams({
        step: String(step),
        probe: factor,
        swap: String(other),
        take: String(keep),
        name: file.current.name.slice(0, 120),
        who,
      });
      const response = await fetch(`/api/jobs/${jobId}/${to}?${query.toString()}`, {
        method: 'POST',
        body: file.current,
        headers: { 'Content-Type': 'text/csv' },
      });
      const body: unknown = await response.json();
      if (!response.ok) {
        setProblem(isProblem(body) ? body : OFFLINE);
        return;
      }
      const answer = body as Answer<S>;
      setRead(answer);
      setOver?.(answer.shown);
      if (keep) {
        const fresh = await api.GET('/api/jobs/{job_id}', { params: { path: { job_id: jobId } } });
        if (fresh.data) take(fresh.data);
      }
    } catch {
      setProblem(OFFLINE);
    } finally {
      setBusy(false);
    }
  }

  return (
    <Popover.Root>
      <Popover.Trigger className="link-button mr-1 whitespace-nowrap">
        {setOver ? 'lay a capture over it' : `capture of step ${step}`}
        {kept && kept.length > 0 ? ` (${kept.length} kept)` : ''}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="left"
          align="start"
          sideOffset={12}
          collisionPadding={12}
          className="z-20 max-h-[80vh] w-[430px] max-w-[94vw] overflow-auto border border-ink bg-paper p-4"
          aria-label={`Capture of step ${step}`}
        >
          <h2 className="heading">A scope&rsquo;s capture of step {step}</h2>
          <p className="text-note">
            <span className="font-semibold">△ {caution}</span> <span className="quiet">{hint}</span>
          </p>
          <input
            type="file"
            accept=".csv,.txt,text/csv"
            aria-label="capture: choose a file"
            className="mt-1 block w-full cursor-pointer text-body file:mr-3 file:min-h-10 file:cursor-pointer file:border file:border-ink file:bg-transparent file:px-4 file:font-semibold"
            onChange={(event) => {
              file.current = event.target.files?.[0] ?? null;
              setRead(null);
              setOver?.(null);
              void ask(false);
            }}
          />
          <div className="mt-1 flex items-end gap-5">
            <label className="block w-28">
              <span className="quiet block text-note">probe divides by</span>
              <input className="input mono" value={probe} onChange={(e) => setProbe(e.target.value)} onBlur={() => void ask(false)} />
            </label>
            <label className="flex min-h-10 items-center gap-2 text-body">
              <input
                type="checkbox"
                className="size-5"
                checked={swap}
                onChange={(e) => {
                  setSwap(e.target.checked);
                  void ask(false, probe, e.target.checked);
                }}
              />
              channels the other way
            </label>
          </div>
          {busy && <p className="quiet">Reading the capture…</p>}
          {problem && (
            <p role="alert" className="text-copper">
              {problem.detail} {problem.allowed && <span className="quiet">— {problem.allowed}</span>}
            </p>
          )}
          {read && (
            <div className="mt-1 text-body">
              <p className="quiet text-note">{read.understood}</p>
              {picture?.(read.shown)}
              <Values shown={read.shown} />
              {read.kept.length > 0 ? (
                <p role="status" className="mt-1 font-semibold">
                  {read.kept.length} readings kept at step {step}
                  {read.not_kept.length > 0 && <span className="quiet block text-note font-normal">{read.not_kept.join('; ')}</span>}
                </p>
              ) : notYet === null ? (
                <button type="button" className="button mt-2" disabled={busy} onClick={() => void ask(true)}>
                  Keep as readings of step {step}
                </button>
              ) : (
                <p className="quiet mt-1 text-note">{notYet}</p>
              )}
            </div>
          )}
          {kept && kept.length > 0 && (
            <ul className="mt-2 border-t border-rule text-body" aria-label="Kept captures">
              {kept.map((c) => (
                <li key={c.id} className="row-line">
                  <p className="flex items-center justify-between gap-3">
                    <span>
                      {c.name || 'capture'} <span className="quiet text-note">{[c.who, when(c.at)].filter(Boolean).join(', ')}</span>
                    </span>
                    <span className="flex gap-3">
                      {setOver && (
                        <button type="button" className="link-button" onClick={() => setOver(c.shown)}>
                          lay over
                        </button>
                      )}
                      <button
                        type="button"
                        className="link-button"
                        aria-expanded={looked === c.id}
                        aria-label={`what ${c.name || 'this capture'} showed`}
                        onClick={() => setLooked(looked === c.id ? null : c.id)}
                      >
                        {looked === c.id ? 'fold' : 'look'}
                      </button>
                    </span>
                  </p>
                  {looked === c.id && (
                    <>
                      {picture?.(c.shown)}
                      <Values shown={c.shown} />
                    </>
                  )}
                </li>
              ))}
            </ul>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Values({ shown }: { shown: Shown }) {
  return (
    <>
      <dl className="grid grid-cols-[1fr_auto] gap-x-4">
        {shown.found.map((f) => (
          <div key={f.name} className="contents">
            <dt>{f.name}</dt>
            <dd className="mono text-right">{f.text}</dd>
          </div>
        ))}
      </dl>
      {shown.words.map((w) => (
        <p key={w} className="text-note text-copper">
          △ {w}
        </p>
      ))}
    </>
  );
}
