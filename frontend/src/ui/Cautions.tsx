import { useState } from 'react';
import { api, problemOf, useSave, type Caution, type JobPageData, type Problem, type StageKey } from '../api/client';
import { useJobInHand } from '../job/context';
import { goOn } from '../job/spot';
import { useTyped } from './typed';
import { when } from './when';
import { useWho } from './who';

/** The cautions of one stage, where the hazard arises; gating ones ask for a tick or a reading. */
export function Cautions({
  stage,
  part = 'all',
  brief = false,
  only,
}: {
  stage: StageKey;
  part?: 'all' | 'first' | 'rest';
  brief?: boolean;
  /** Only those with these keys. */
  only?: readonly string[];
}) {
  const { page } = useJobInHand();
  const found = (page.frame?.cautions ?? [])
    .filter((c) => c.stages.includes(stage) && (only ? only.includes(c.key) : true))
    .filter((c) => part === 'all' || (part === 'first') === (c.gates.length > 0 && !page.confirmed.some((k) => k.caution === c.key)));
  if (found.length === 0) return null;
  const done = new Map(page.confirmed.map((c) => [c.caution, c]));
  const gates = found.filter((c) => c.gates.length > 0 && !done.has(c.key));
  const met = found.filter((c) => c.gates.length > 0 && done.has(c.key));
  const said = found.filter((c) => c.gates.length === 0);
  return (
    <section aria-label="Cautions" className="space-y-2 text-body">
      {gates.map((caution) => (
        <Gate key={caution.key} page={page} caution={caution} />
      ))}
      {brief && said.length > 0 && (
        <div className="grid grid-cols-[repeat(auto-fit,minmax(300px,1fr))] gap-x-6">
          {said.map((c) => (
            <details key={c.key} className="border-l-2 border-hazard pl-2 [&[open]_summary]:whitespace-normal">
              <summary className="min-h-7 cursor-pointer truncate py-1 text-note font-semibold" title={c.do}>
                {c.text}
              </summary>
              <p className="quiet pb-1">{c.do}</p>
            </details>
          ))}
        </div>
      )}
      {!brief && said.length > 0 && (
        <ul className="grid grid-cols-[repeat(auto-fit,minmax(300px,1fr))] gap-x-6 gap-y-1.5">
          {said.map((c) => (
            <li key={c.key} className="border-l-2 border-hazard pl-2">
              <strong className="font-semibold">{c.text}</strong> <span className="quiet">{c.do}</span>
            </li>
          ))}
        </ul>
      )}
      {met.map((c) => {
        const by = done.get(c.key);
        return (
          <p key={c.key} className="quiet text-note">
            ✓ <span title={by?.said ? `${by.said} ${by.do ?? ''}` : undefined}>{by?.brief || c.brief}</span>: {by?.who}
            {by?.text ? `, ${by.text}` : ''}, {by && when(by.at)}
          </p>
        );
      })}
    </section>
  );
}

function Gate({ page, caution }: { page: JobPageData; caution: Caution }) {
  const { who, setWho } = useWho();
  const [text, setText, clear] = useTyped(`${page.job.id} confirm ${caution.key}`, '');
  const [problem, setProblem] = useState<Problem | null>(null);
  const save = useSave(page.job.id, () =>
    api.POST('/api/jobs/{job_id}/confirmations', {
      params: { path: { job_id: page.job.id } },
      body: { caution: caution.key, who, text },
    }),
  );
  const byReading = caution.confirm === 'reading';
  return (
    <form
      data-gate=""
      className="hazard-edge border-l-4 border-hazard bg-shade/60 px-3 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        const form = event.currentTarget;
        save.mutate(undefined, {
          onSuccess: () => {
            clear();
            goOn(form);
          },
          onError: (error) => setProblem(problemOf(error)),
        });
      }}
    >
      <p>
        <strong>First: {caution.text}</strong> {caution.do}
      </p>
      <div className="mt-1 flex flex-wrap items-end gap-4">
        {byReading && (
          <label className="block w-36">
            <span className="quiet block text-note">volts read afterwards</span>
            <input className="input mono" value={text} onChange={(e) => setText(e.target.value)} placeholder="2V" aria-invalid={problem?.field === 'text'} />
          </label>
        )}
        <label className="block w-36">
          <span className="quiet block text-note">who</span>
          <input
            className="input"
            value={who}
            maxLength={120}
            onChange={(e) => setWho(e.target.value)}
            placeholder="your name"
            aria-invalid={problem?.field === 'who'}
          />
        </label>
        <button type="submit" className="button" disabled={save.isPending}>
          {byReading ? 'Discharged, volts read' : 'Done'}
        </button>
      </div>
      {problem && (
        <p role="alert" className="text-note text-copper">
          {problem.detail}
          {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
        </p>
      )}
    </form>
  );
}
