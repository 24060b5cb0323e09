import { useEffect, useState } from 'react';
import { Link, useParams } from 'react-router';
import { useJob } from '../api/client';
import { VerdictWord } from '../instruments/VerdictSign';
import { when } from '../ui/when';
import { NotThere } from './NotThere';

/** The whole job on paper. */
export function PrintPage() {
  const { jobId } = useParams();
  const [printed] = useState(() => Date.now());
  const job = useJob(Number(jobId));
  useEffect(() => {
    if (job.data) document.title = `${job.data.fan.name}, job ${job.data.job.id}`;
  }, [job.data]);
  if (job.isPending) return <p className="quiet p-10">Fetching the job…</p>;
  if (!job.data) return <NotThere text="There is no such job." />;
  const page = job.data;
  const { fan, frame, design } = page;
  const measured = page.wanted_readings.filter((w) => w.text);
  return (
    <article className="mx-auto max-w-[900px] px-8 py-6 print:px-0">
      <nav className="no-print mb-4 flex gap-4">
        <Link className="button inline-flex items-center" to={`/jobs/${page.job.id}`}>
          Back to the job
        </Link>
        <button type="button" className="button button-main" onClick={() => window.print()}>
          Print
        </button>
      </nav>
      <header className="flex items-baseline gap-4 border-b-2 border-ink pb-2">
        <h1 className="text-[24px] font-bold">{fan.name}</h1>
        <p className="quiet">{fan.place}</p>
        <p className="mono ml-auto text-copper">fenwit · job {page.job.id}</p>
      </header>
      {page.job.wish && <p className="mt-2">{page.job.wish}</p>}
      <p className="mt-1 font-semibold">
        {frame?.refused ? `Refused: ${frame.refused}` : frame?.proof_summary || frame?.waits_for}
      </p>
      <div className="mt-4 grid grid-cols-2 gap-8">
        <Section title="Fan">
          <Facts
            rows={[
              ['kind', page.kind_name],
              ['maker', fan.maker],
              ['serial number', fan.serial],
              ...page.printed.map((p): [string, string] => [p.label, p.text]),
              ['supply', `${page.supply_volts_text}, ${page.supply_hertz_text}`],
            ]}
          />
        </Section>
        <Section title="Read at full speed, and dead">
          <Facts rows={measured.map((w) => [w.label, `${w.text}${w.who ? `  (${w.who})` : ''}`])} />
          {frame?.full && <Facts rows={[['full speed, model', `${frame.full.number} rpm`]]} />}
        </Section>
      </div>
      {frame && frame.marks.length > 0 && (
        <Section title="Steps">
          <table className="w-full">
            <thead className="quiet text-left text-[13px]">
              <tr>
                <th className="w-12 font-normal">step</th>
                <th className="font-normal">joins</th>
                <th className="text-right font-normal">wanted</th>
                <th className="text-right font-normal">expected, 9 in 10</th>
                <th className="text-right font-normal">motor</th>
                <th className="text-right font-normal">takes</th>
                <th className="text-right font-normal">read</th>
                <th className="pl-4 font-normal">verdict</th>
              </tr>
            </thead>
            <tbody>
              {frame.marks.map((m) => {
                const path = frame.paths.find((p) => p.step === m.step);
                return (
                  <tr key={m.step} className="row-line">
                    <td className="py-1 font-bold">{m.step}</td>
                    <td>{path?.regulator_name}</td>
                    <td className="mono text-right">{m.wanted_rpm !== null ? `${Math.round(m.wanted_rpm)} rpm` : ''}</td>
                    <td className="mono text-right">{m.predicted ? `${m.predicted.number} rpm` : m.reasons[0]}</td>
                    <td className="mono text-right">{path?.motor.slice(0, 2).join(', ')}</td>
                    <td className="mono pl-3 text-right">{path?.supply[1]}</td>
                    <td className="mono pl-3 text-right">{m.measured_rpm !== null ? `${m.measured_rpm} rpm` : ''}</td>
                    <td className="pl-4">
                      <VerdictWord verdict={m.measured_verdict} />
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </Section>
      )}
      {frame && design && (
        <Section title={`Bank, revision ${design.revision}`}>
          <Facts
            rows={[
              ...frame.parts.map((p): [string, string] => [
                p.name,
                `${p.text}; bears ${p.voltage_text}, ${p.current_text}; ${p.required_text}`,
              ]),
              ['steps join', design.patterns.map((p, i) => `${i + 1}: ${p}`).join('   ')],
              ['computed by', `core ${design.core_version}${design.who ? `, chosen by ${design.who}` : ''}, ${when(design.made_at)}`],
            ]}
          />
        </Section>
      )}
      {frame && frame.proofs.some((r) => r.verdict) && (
        <Section title="Proving">
          <table className="w-full">
            <tbody>
              {frame.proofs
                .filter((r) => r.verdict)
                .map((r) => (
                  <tr key={`${r.step}-${r.quantity}`} className="row-line">
                    <td className="w-8 py-1 font-bold">{r.step}</td>
                    <td className="whitespace-nowrap">{r.name}</td>
                    <td className="mono pl-4 text-right whitespace-nowrap">
                      {r.expected} {r.unit}
                    </td>
                    <td className="mono pl-6 text-right whitespace-nowrap">
                      {r.reading} {r.unit}
                    </td>
                    <td className="pl-4">
                      <VerdictWord verdict={r.verdict} />
                    </td>
                    <td className="text-[13px]">{r.verdict === 'fail' ? r.words : ''}</td>
                  </tr>
                ))}
            </tbody>
          </table>
        </Section>
      )}
      {frame && (
        <Section title="Cautions">
          <ul className="list-disc space-y-0.5 pl-4 text-[13px]">
            {frame.cautions.map((c) => {
              const by = page.confirmed.find((k) => k.caution === c.key);
              return (
                <li key={c.key}>
                  <strong>{c.text}</strong> {c.do}
                  {by && <span className="quiet"> Confirmed: {by.who}, {when(by.at)}.</span>}
                </li>
              );
            })}
          </ul>
        </Section>
      )}
      {frame && frame.assumptions.length > 0 && (
        <Section title="Assumed">
          <ul className="list-disc pl-4 text-[13px]">
            {frame.assumptions.map((a) => (
              <li key={a}>{a}</li>
            ))}
          </ul>
        </Section>
      )}
      <p className="quiet mt-4 text-[13px]">
        Fenwit computes and records; it certifies nothing. Local codes and a licensed person decide. Printed {when(printed)}.
      </p>
    </article>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="mt-4 break-inside-avoid">
      <h2 className="heading border-b border-ink pb-0.5">{title}</h2>
      {children}
    </section>
  );
}

function Facts({ rows }: { rows: [string, string][] }) {
  return (
    <dl className="grid grid-cols-[150px_1fr] text-[14px]">
      {rows
        .filter(([, value]) => value)
        .map(([label, value]) => (
          <div key={label} className="contents">
            <dt className="quiet">{label}</dt>
            <dd className="mono">{value}</dd>
          </div>
        ))}
    </dl>
  );
}
