import { Popover } from 'radix-ui';
import { useRef, useState } from 'react';
import { api, isProblem, OFFLINE, useTakePage, type Problem, type Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { when } from '../../ui/when';
import { useWho } from '../../ui/who';
import { useCaptures } from './api';

type Answer = Schemas['CaptureAnswer'];
type Shown = Schemas['CaptureShown'];

/** A scope's CSV laid over the waves of a step; what is read from it can be kept as readings of that step. */
export function CaptureOver({ step, setOver }: { step: number; setOver?: (shown: Shown | null) => void }) {
  const { page } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const take = useTakePage(jobId);
  const kept = useCaptures(page, step);
  const file = useRef<File | null>(null);
  const [probe, setProbe] = useState('1');
  const [swap, setSwap] = useState(false);
  const [read, setRead] = useState<Answer | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const chosen = page.design?.method === 'phase-angle';

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
      const response = await fetch(`/api/jobs/${jobId}/captures?${query.toString()}`, {
        method: 'POST',
        body: file.current,
        headers: { 'Content-Type': 'text/csv' },
      });
      const body: unknown = await response.json();
      if (!response.ok) {
        setProblem(isProblem(body) ? body : OFFLINE);
        return;
      }
      const answer = body as Answer;
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
        {kept.data && kept.data.length > 0 ? ` (${kept.data.length} kept)` : ''}
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
            <span className="font-semibold">△ No clip of a scope belongs to the mains: a differential probe across the motor.</span>{' '}
            <span className="quiet">CSV: times and the motor&rsquo;s volts; a second channel with the supply makes the angles surer. Two periods or more.</span>
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
              <Values shown={read.shown} />
              {read.kept.length > 0 ? (
                <p role="status" className="mt-1 font-semibold">
                  {read.kept.length} readings kept at step {step}
                  {read.not_kept.length > 0 && <span className="quiet block text-note font-normal">{read.not_kept.join('; ')}</span>}
                </p>
              ) : chosen ? (
                <button type="button" className="button mt-2" disabled={busy} onClick={() => void ask(true)}>
                  Keep as readings of step {step}
                </button>
              ) : (
                <p className="quiet mt-1 text-note">Readings belong to a step that is built: choose phase angle first to keep them.</p>
              )}
            </div>
          )}
          {kept.data && kept.data.length > 0 && (
            <ul className="mt-2 border-t border-rule text-body" aria-label="Kept captures">
              {kept.data.map((c) => (
                <li key={c.id} className="row-line flex items-center justify-between gap-3">
                  <span>
                    {c.name || 'capture'} <span className="quiet text-note">{[c.who, when(c.at)].filter(Boolean).join(', ')}</span>
                  </span>
                  {setOver && (
                    <button type="button" className="link-button" onClick={() => setOver(c.shown)}>
                      lay over
                    </button>
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
