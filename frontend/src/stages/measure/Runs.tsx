import { useState } from 'react';
import { api, problemOf, useSave, type Problem, type Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { fieldId, land } from '../../job/spot';
import { useTyped } from '../../ui/typed';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';

type Wanted = Schemas['Wanted'];

const WHAT: readonly [string, string, string][] = [
  ['capacitor', 'a capacitor in the line', '3u9'],
  ['resistor', 'a resistor in the line', '600'],
  ['voltage', 'other volts', '180V'],
  ['duty', 'a duty on the control lead', '40 %'],
  ['control', 'volts on the control input', '5 V'],
  ['bare-shaft', 'without blades', ''],
  ['direct', 'direct once more', ''],
  ['locked', 'the rotor held', ''],
];
/** Of a fan with electronics of its own, which takes nothing else; a duty only where it has a lead for it. */
const COMMANDED = ['duty', 'voltage', 'direct'];
/** Of one told by a voltage: its supply stays whole. */
const TOLD = ['control', 'direct'];
const FIRST = ['speed_rpm', 'line_current_a', 'motor_voltage_v'];

interface Props {
  onTake: (asked: Wanted, text: string, run: number) => Promise<Problem | null>;
}

/** Runs away from full speed: what stands in the line, and what is read meanwhile. */
export function Runs({ onTake }: Props) {
  const { page } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const [what, setWhat] = useState('capacitor');
  const [text, setText, clear] = useTyped(`${page.job.id} new run`, '');
  const [problem, setProblem] = useState<Problem | null>(null);
  const keys = page.control_input ? TOLD : page.commanded ? COMMANDED : WHAT.map(([key]) => key).filter((key) => key !== 'control');
  const offered = keys.filter((key) => key !== 'duty' || page.sweep !== null).flatMap((key) => WHAT.filter(([k]) => k === key));
  const chosen = offered.some(([key]) => key === what) ? what : (offered[0]?.[0] ?? what);
  const add = useSave(jobId, () => api.POST('/api/jobs/{job_id}/runs', { params: { path: { job_id: jobId } }, body: { what: chosen, text, who } }));
  const drop = useSave(jobId, (run: number) => api.DELETE('/api/jobs/{job_id}/runs/{run_id}', { params: { path: { job_id: jobId, run_id: run } } }));
  const usual = WHAT.find(([key]) => key === chosen)?.[2] ?? '';
  const hint = page.commanded && chosen === 'voltage' ? '9 V' : usual;
  return (
    <section aria-label="Runs away from full speed">
      <h2 className="heading mt-3">
        {page.control_input
          ? 'Slowed down: by its control input'
          : page.sweep
            ? 'Slowed down: by its lead, or on other volts'
            : page.commanded
              ? 'Slowed down: on other volts'
              : 'Slowed down: something in the line, or other volts'}
      </h2>
      {page.runs.map((run) => {
        const [main, more] = [run.readings.filter((r) => FIRST.includes(r.quantity)), run.readings.filter((r) => !FIRST.includes(r.quantity))];
        const field = (r: Wanted) => (
          <ValueField
            key={r.quantity}
            inputId={fieldId(`run:${run.id}:${r.quantity}`)}
            label={r.label}
            text={r.text}
            disabled={r.gated_by !== null && r.text === ''}
            onCommit={(typed) => onTake(r, typed, run.id)}
          />
        );
        return (
          <div key={run.id} role="group" aria-label={`run: ${run.label}`} className="row-line py-1">
            <div className="grid grid-cols-[minmax(0,1fr)_repeat(3,92px)_76px] items-end gap-x-3">
              <p className="pb-2.5 font-semibold">{run.label}</p>
              {main.map(field)}
              {run.empty ? (
                <button
                  type="button"
                  className="link-button whitespace-nowrap"
                  onClick={() => drop.mutate(run.id, { onError: (e) => setProblem(problemOf(e)) })}
                >
                  put away
                </button>
              ) : (
                <span />
              )}
            </div>
            <details className={more.length === 0 ? 'hidden' : ''}>
              <summary className="quiet min-h-8 cursor-pointer py-1 text-note">
                {page.commanded ? 'more: supply as read then, watts' : 'more: mains as read then, watts, capacitor volts'}
              </summary>
              <div className="grid grid-cols-4 gap-x-4">{more.map(field)}</div>
            </details>
          </div>
        );
      })}
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(undefined, {
            onSuccess: (saved) => {
              clear();
              setProblem(null);
              const run = saved.runs[saved.runs.length - 1];
              if (run) land(`run:${run.id}:speed_rpm`);
            },
            onError: (error) => setProblem(problemOf(error)),
          });
        }}
      >
        <label className="block">
          <span className="quiet block text-note">a run with</span>
          <select className="input" value={chosen} onChange={(e) => setWhat(e.target.value)}>
            {offered.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
        {hint && (
          <label className="block w-24">
            <span className="quiet block text-note">as measured</span>
            <input className="input mono" value={text} placeholder={hint} aria-invalid={problem !== null} onChange={(e) => setText(e.target.value)} />
          </label>
        )}
        <button type="submit" className="button" disabled={add.isPending}>
          Add the run
        </button>
      </form>
      {problem && (
        <p role="alert" className="text-note text-copper">
          {problem.detail}
          {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
        </p>
      )}
    </section>
  );
}
