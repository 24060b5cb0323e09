import { useState } from 'react';
import { api, type Problem, type Schemas } from '../api/client';
import { useVersionedSave } from '../api/save';
import { SizingPlot } from '../instruments/SizingPlot';
import type { StageProps } from '../pages/JobPage';
import { Cautions } from '../ui/Cautions';
import { ValueField } from '../ui/ValueField';
import { useWho } from '../ui/who';

type Candidate = Schemas['Candidate'];

/** Speed over capacitance, the banks best first, and what each part bears. */
export function Size({ page, frame, selected, onSelect, draft, setDraft, onClash }: StageProps) {
  const { who } = useWho();
  const [problem, setProblem] = useState<Problem | null>(null);
  const jobId = page.job.id;
  const design = page.design;

  const save = useVersionedSave(jobId, onClash);

  async function choose(a: string, b: string, patterns: readonly string[]): Promise<Problem | null> {
    const refused = await save({
      scope: 'design',
      from: design?.revision ?? 0,
      after: (page) => page.design?.revision ?? 0,
      send: (after: number) =>
        api.POST('/api/jobs/{job_id}/designs', {
          params: { path: { job_id: jobId } },
          body: { after_revision: after, a, b, patterns: [...patterns], who },
        }),
      again: (current: { revision: number } | null) => current?.revision ?? 0,
      what: 'The bank',
      mine: `${a} and ${b}`,
      theirs: (current) => (current ? `revision ${current.revision}` : 'no bank'),
    });
    if (!refused) setDraft(null);
    return refused;
  }

  if (!frame.full) {
    return <p className="quiet">A bank can be sized once full speed is known: {frame.missing.map((m) => m.text).join(', ')}.</p>;
  }
  if (page.job.wanted_rpm.length === 0 && !design) {
    return <p className="quiet">First say in Aim which speeds are wanted.</p>;
  }
  const isTried = (c: Candidate) => draft?.bank?.a === c.a_bench && draft.bank.b === c.b_bench && same(draft.bank.patterns, c.patterns);
  const full = frame.full.value;
  return (
    <div className="flex h-full min-h-[480px] flex-col">
      <div className="grid min-h-[240px] flex-1 grid-cols-[minmax(0,1.25fr)_minmax(360px,1fr)] gap-6 max-[900px]:grid-cols-1 max-[900px]:grid-rows-[300px_minmax(220px,1fr)]">
        <SizingPlot frame={frame} selected={selected} onSelect={onSelect} />
        <section aria-label="Banks" className="min-h-0 overflow-auto" onPointerLeave={() => setDraft(null)}>
          <h2 className="heading mb-1">Banks of two, from E12 values, best first</h2>
          {frame.banks_note && <p className="text-copper">{frame.banks_note}</p>}
          <ul>
            {(page.frame?.banks ?? []).map((c) => (
              <li key={`${c.text} ${c.patterns.join()}`} className="row-line">
                <button
                  type="button"
                  aria-pressed={c.chosen}
                  aria-label={`${c.text}, worst miss ${c.miss_text} of full speed, ${c.evenness_text}, ${c.chosen ? 'chosen' : 'choose'}`}
                  onPointerEnter={() => setDraft(c.chosen ? null : { bank: { a: c.a_bench, b: c.b_bench, patterns: [...c.patterns] } })}
                  onFocus={() => setDraft(c.chosen ? null : { bank: { a: c.a_bench, b: c.b_bench, patterns: [...c.patterns] } })}
                  onBlur={() => setDraft(null)}
                  onClick={() => void choose(c.a_bench, c.b_bench, c.patterns).then(setProblem)}
                  className={`grid h-11 w-full grid-cols-[124px_minmax(0,1fr)_48px] items-center gap-3 text-left ${c.chosen ? 'font-bold text-copper' : ''} ${isTried(c) ? 'bg-shade' : ''}`}
                >
                  <span className="mono whitespace-nowrap text-[16px]">{c.text}</span>
                  <svg viewBox="0 0 100 24" preserveAspectRatio="none" className="h-6 w-full" aria-hidden="true">
                    <line x1={0} x2={100} y1={22} y2={22} stroke="var(--color-rule)" vectorEffect="non-scaling-stroke" />
                    {page.job.wanted_rpm.map((w) => (
                      <line key={w} x1={(99 * w) / full} x2={(99 * w) / full} y1={16} y2={24} stroke="var(--color-muted)" strokeWidth={1} vectorEffect="non-scaling-stroke" />
                    ))}
                    {c.speed_rpm.map((s) => (
                      <line key={s} x1={(99 * s) / full} x2={(99 * s) / full} y1={2} y2={20} stroke="currentColor" strokeWidth={3} vectorEffect="non-scaling-stroke" />
                    ))}
                  </svg>
                  <span className="mono text-right text-[15px]">{c.miss_text}</span>
                </button>
              </li>
            ))}
          </ul>
          <p className="quiet border-t border-rule pt-1 text-[13px]">
            Tall strokes: speeds the bank gives, 0 to full. Short ones: speeds wanted. ± is the worst miss, of full speed.
          </p>
        </section>
      </div>
      {problem && (
        <p role="alert" className="text-copper">
          {problem.detail}
          {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
        </p>
      )}
      <section aria-label="Parts" className="mt-2 shrink-0">
        {design ? (
          <table className="w-full">
            <tbody>
              {frame.parts.map((p) => (
                <tr key={p.name} className="row-line">
                  <td className="w-8 text-[17px] font-bold">{p.name}</td>
                  <td className="w-44 py-1 pr-4">
                    {draft?.bank ? (
                      p.text
                    ) : (
                      <ValueField
                        label={`capacitor ${p.name}, film X2 ±10 %`}
                        text={p.bench}
                        onCommit={(text) =>
                          choose(p.name === 'A' ? text : (partOf(frame, 'A') ?? ''), p.name === 'B' ? text : (partOf(frame, 'B') ?? ''), design.patterns)
                        }
                      />
                    )}
                  </td>
                  <td>
                    <Stress value={p.voltage_v} limit={p.required_voltage_v} />
                  </td>
                  <td className="mono w-52 pl-4 text-right text-[14px]">
                    {p.voltage_text}, {p.current_text}
                    <span className="quiet block font-sans text-[13px]">{p.worst_step ? `worst at step ${p.worst_step}` : ''}</span>
                  </td>
                  <td className="w-44 text-right text-[14px]">{p.required_text}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : (
          <p className="quiet row-line pt-2">Choose a bank on the right: pointing at one tries it on the staff and the path, a click keeps it.</p>
        )}
        <div className="mt-1">
          <Cautions page={page} stage="size" />
        </div>
      </section>
    </div>
  );
}

const same = (a: readonly string[], b: readonly string[]) => a.length === b.length && a.every((x, i) => x === b[i]);
const partOf = (frame: StageProps['frame'], name: string) => frame.parts.find((p) => p.name === name)?.bench;

function Stress({ value, limit }: { value: number; limit: number }) {
  const share = Math.min(1, value / limit);
  return (
    <div className="h-2.5 w-full bg-shade" role="img" aria-label={`${Math.round(100 * share)} per cent of the rating`}>
      <div className="h-full bg-ink" style={{ width: `${100 * share}%` }} />
    </div>
  );
}
