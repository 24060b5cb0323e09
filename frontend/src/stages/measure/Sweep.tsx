import { useState } from 'react';
import { api, problemOf, useSave, type Problem, type Schemas } from '../../api/client';
import { VerdictWord } from '../../instruments/VerdictSign';
import { useJobInHand } from '../../job/context';
import { fieldId } from '../../job/spot';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';

type Wanted = Schemas['Wanted'];
const VERDICT = { good: { verdict: 'pass', say: 'right' }, off: { verdict: 'fail', say: 'misread' } } as const;

interface Props {
  onTake: (asked: Wanted, text: string, run: number) => Promise<Problem | null>;
}

/** A sweep of frequencies on the control lead: three duties at each, and which of them the fan takes rightly. */
export function Sweep({ onTake }: Props) {
  const { page } = useJobInHand();
  const { who } = useWho();
  const [problem, setProblem] = useState<Problem | null>(null);
  const where = { params: { path: { job_id: page.job.id } } };
  const begin = useSave(page.job.id, () => api.POST('/api/jobs/{job_id}/sweep', { ...where, body: { who } }));
  const leave = useSave(page.job.id, () => api.DELETE('/api/jobs/{job_id}/sweep', where));
  const told = page.sweep;
  if (!told) return null;
  const failed = { onSuccess: () => setProblem(null), onError: (e: Error) => setProblem(problemOf(e)) };
  if (told.rows.length === 0) {
    return (
      <section aria-label="Sweep of frequency" className="mt-3">
        <h2 className="heading">Sweep of frequency</h2>
        <p className="quiet text-note">For a fan outside the usual band: eight frequencies at three duties tell which ones it takes rightly.</p>
        <button type="button" className="button mt-1" disabled={begin.isPending} onClick={() => begin.mutate(undefined, failed)}>
          Begin a sweep
        </button>
        <Refusal problem={problem} />
      </section>
    );
  }
  const open = told.rows.flatMap((r) => r.runs).some((r) => r.empty);
  return (
    <section aria-label="Sweep of frequency" className="mt-3">
      <h2 className="heading">Sweep of frequency, rpm at each</h2>
      <table className="w-full text-body">
        <thead className="quiet text-left text-note">
          <tr>
            <th className="pr-4 font-normal whitespace-nowrap">on the lead</th>
            {told.duties.map((d) => (
              <th key={d} className="font-normal">
                {d}
              </th>
            ))}
            <th className="w-24 font-normal">the fan takes it</th>
            <th className="w-16 text-right font-normal">off by</th>
          </tr>
        </thead>
        <tbody>
          {told.rows.map((row) => (
            <tr key={row.frequency_text} className="row-line">
              <th scope="row" className="mono pr-3 text-left font-normal whitespace-nowrap">
                {row.frequency_text}
              </th>
              {row.runs.map((run) =>
                run.readings.map((r) => (
                  <td key={run.id} className="py-0.5 pr-3">
                    <ValueField
                      bare
                      inputId={fieldId(`run:${run.id}:${r.quantity}`)}
                      label={`${run.label}, ${r.label}`}
                      text={r.text}
                      disabled={r.gated_by !== null && r.text === ''}
                      onCommit={(typed) => onTake(r, typed, run.id)}
                    />
                  </td>
                )),
              )}
              <td>{row.verdict === 'unread' ? <span className="quiet text-note">–</span> : <VerdictWord {...VERDICT[row.verdict]} />}</td>
              <td className="mono text-right">{row.off_text}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p role="status" className="text-note first-letter:uppercase">
        {told.words}.
      </p>
      {open && (
        <button type="button" className="link-button" disabled={leave.isPending} onClick={() => leave.mutate(undefined, failed)}>
          put the empty places away
        </button>
      )}
      <Refusal problem={problem} />
    </section>
  );
}
