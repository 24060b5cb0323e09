import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { answer, api, problemOf, type Problem, type Schemas } from '../../api/client';
import { useEdits } from '../../api/save';
import { useAsked, useDeviceInHand, useDevices, type DeviceAnswer } from '../../devices/api';
import { DeviceBar } from '../../devices/DeviceBar';
import { VerdictWord } from '../../instruments/VerdictSign';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { useKeys } from '../../ui/useKeys';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';

type Line = Schemas['LineShown'];
type Ask = Schemas['AskShown'];

const STATE: Record<Line['state'], string> = { open: '○', next: '◐', done: '●', failed: '△', stopped: '–' };

/** The commissioning order: do, expect, reading, verdict, why; a failed line stops it. */
export function Plan() {
  const { page, onClash } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const save = useEdits(jobId, onClash);
  const asked = useAsked(jobId);
  const devices = useDevices().data ?? [];
  const [device, pick] = useDeviceInHand(devices);
  const [last, setLast] = useState<DeviceAnswer | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const working = useRef(false);
  const found = useQuery({
    queryKey: ['plan', jobId, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/plan', { params: { path: { job_id: jobId } }, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const shown = found.data ?? null;
  const can = (a: Ask) => a.device !== '' && (device?.channels.some((c) => c.quantity === a.device) ?? false);
  const take = (line: Line, a: Ask, text: string): Promise<Problem | null> =>
    save({
      kind: 'reading',
      method: 'POST',
      path: `/api/jobs/${jobId}/plan/${line.key}/${a.key}`,
      body: { text, who },
      quantity: a.quantity,
      versionField: 'supersedes',
      from: a.reading_id,
      replaces: {},
      what: `The reading of ${line.title}`,
      mine: text || 'taken back',
    });
  const read = async (line: Line, a: Ask) => {
    if (!device || working.current) return;
    working.current = true;
    setBusy(true);
    setProblem(null);
    try {
      const got = await answer(
        api.POST('/api/jobs/{job_id}/plan/{line}/{key}/take', {
          params: { path: { job_id: jobId, line: line.key, key: a.key } },
          body: { device: device.name, supersedes: a.reading_id, who },
        }),
      );
      setLast(got);
    } catch (error) {
      setProblem(problemOf(error));
    } finally {
      working.current = false;
      setBusy(false);
      await asked();
    }
  };
  const open = shown?.lines.flatMap((line) => (line.state === 'next' || line.state === 'failed' ? line.asks.map((a) => ({ line, a })) : [])) ?? [];
  const next = open.find(({ a }) => a.verdict === null && can(a)) ?? open.find(({ a }) => a.verdict === 'fail' && can(a));
  useKeys('job', { take: () => next && void read(next.line, next.a) });
  if (!shown) return <p className="quiet">{found.error ? problemOf(found.error).detail : 'Working out the plan…'}</p>;
  return (
    <section aria-label="Order of work" className="space-y-2">
      <div className="flex flex-wrap items-center justify-between gap-x-6">
        <DeviceBar jobId={jobId} devices={devices} device={device} onPick={pick} last={last} busy={busy} />
        <p className={shown.lines.some((l) => l.state === 'failed') ? 'text-copper' : 'quiet'}>{shown.summary}</p>
      </div>
      <Refusal problem={problem} />
      <ol>
        {shown.lines.map((line, i) => (
          <li
            key={line.key}
            className={`border-t border-ink/60 py-2 ${line.state === 'stopped' ? 'opacity-60' : ''}`}
            aria-current={line.state === 'next' ? 'step' : undefined}
          >
            <div className="grid grid-cols-[34px_minmax(0,1fr)_minmax(0,2fr)] gap-x-4 max-[900px]:grid-cols-[34px_minmax(0,1fr)]">
              <span className={`text-title font-bold ${line.state === 'failed' ? 'text-copper' : ''}`} aria-hidden="true">
                {STATE[line.state]}
              </span>
              <div>
                <h3 className="font-bold">
                  {i + 1} {line.title}
                  <span className="sr-only">, {line.state}</span>
                </h3>
                <p className="text-body">{line.do}</p>
                <p className="quiet text-note first-letter:uppercase">{line.why}</p>
              </div>
              <div className="max-[900px]:col-span-2">
                {line.asks.map((a) => (
                  <div
                    key={a.key}
                    className="row-line grid grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_150px_86px_74px] items-center gap-x-3 max-[900px]:grid-cols-[minmax(0,1fr)_130px_80px]"
                  >
                    <span>
                      {a.words}
                      {a.told && <span className="quiet block text-note">{a.told}</span>}
                    </span>
                    <span className="mono text-body max-[900px]:text-note">{a.expect}</span>
                    <span className="[&_label]:sr-only">
                      <ValueField
                        inputId={`plan-${line.key}-${a.key}`}
                        label={`${line.title}: ${a.words}`}
                        text={a.text}
                        hint={a.seen ? 'yes or no' : a.hint}
                        disabled={line.state === 'stopped'}
                        onCommit={(text) => take(line, a, text)}
                      />
                    </span>
                    <span>
                      <VerdictWord verdict={a.verdict} />
                    </span>
                    <span>
                      {can(a) && line.state !== 'stopped' && (
                        <button
                          type="button"
                          className="link-button"
                          disabled={busy}
                          aria-label={`read ${a.words} off ${device?.name ?? ''}`}
                          onClick={() => void read(line, a)}
                        >
                          read it
                        </button>
                      )}
                    </span>
                  </div>
                ))}
                {line.fault && <p className="mt-1 border-l-4 border-copper pl-3 text-copper">Likeliest: {line.fault}.</p>}
              </div>
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}
