import { useState, type FormEvent } from 'react';
import { Link } from 'react-router';
import { api, problemOf, useSave, useTakePage, type JobPageData, type Problem } from '../api/client';
import { useJobInHand } from '../job/context';
import { ImportFile } from '../ui/ImportFile';
import { useTyped } from '../ui/typed';
import { day, when } from '../ui/when';
import { filesOf } from '../methods';
import { useWho } from '../ui/who';
import { Standing } from './wire/Standing';

/** What was done: signed, printed, put into files; and what would change today. */
export default function HandOver() {
  const { page, frame, selected } = useJobInHand();
  const jobId = page.job.id;
  const path = `/api/jobs/${jobId}`;
  const take = useTakePage(jobId);
  const wired = page.job.wiring !== '';
  return (
    <div className="grid grid-cols-[minmax(0,1.25fr)_minmax(320px,1fr)] gap-10 max-[1000px]:grid-cols-1">
      <section aria-label="On paper">
        {(page.design || !wired) && <h2 className="heading mb-1">Schematic</h2>}
        {page.design ? (
          <a href={`${path}/schematic.svg`} target="_blank" rel="noreferrer" title="open it large">
            <img
              key={page.saved_at}
              src={`${path}/schematic.svg?at=${encodeURIComponent(page.saved_at)}`}
              alt={`Schematic of the regulator: ${frame.parts.map((p) => `${p.name} ${p.paper || p.text}`).join('; ')}`}
              className="schematic max-h-[320px] w-full object-contain object-left"
            />
          </a>
        ) : (
          !wired && <p className="quiet">No regulator is chosen yet, so there is nothing to hand over. The report can be printed all the same.</p>
        )}
        {frame.wiring.length > 0 && (
          <details open className="mt-2 text-body">
            <summary className="min-h-9 cursor-pointer py-1.5 font-semibold">Connections, lug by lug</summary>
            <dl className="grid grid-cols-[70px_1fr] gap-y-0.5">
              {frame.wiring.map((w) => (
                <div key={w.lug} className="contents">
                  <dt className="mono">{w.lug}</dt>
                  <dd>{w.text}</dd>
                </div>
              ))}
            </dl>
          </details>
        )}
        {page.changes.length > 0 && (
          <section aria-label="What would change" className="mt-3">
            <h2 className="heading">What would change today</h2>
            <p className="quiet text-body">
              Revision {page.design?.revision} was computed by core {page.design?.core_version} and stands as it was signed. Today’s core and readings say:
            </p>
            <table className="w-full text-body">
              <thead className="quiet text-left text-note">
                <tr>
                  <th className="font-normal">value</th>
                  <th className="text-right font-normal">as kept</th>
                  <th className="text-right font-normal">today</th>
                </tr>
              </thead>
              <tbody>
                {page.changes.slice(0, 24).map((c) => (
                  <tr key={c.name} className="row-line">
                    <td className="py-0.5">{c.name}</td>
                    <td className="mono text-right">{c.then}</td>
                    <td className="mono text-right">{c.now}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {page.changes.length > 24 && <p className="quiet text-note">and {page.changes.length - 24} more</p>}
          </section>
        )}
        {wired && <Standing />}
        <ShelfParts page={page} />
      </section>
      <section aria-label="Sign and send" className="space-y-4">
        <Sign page={page} standing={frame.proof_summary} />
        <div>
          <h2 className="heading mb-1">Files</h2>
          <ul className="grid grid-cols-2 gap-x-6 text-lead">
            <FileLink to={`/jobs/${jobId}/print`} inside text="printable page" />
            <FileLink to={`${path}/report.pdf`} text="report, PDF" />
            <FileLink to={`${path}/label.pdf`} text="step label, PDF" />
            {wired && <FileLink to={`${path}/wire/labels.pdf`} text="labels of the wiring, PDF" />}
            {wired && <FileLink to={`${path}/wire/drawing.svg`} text="circuit, SVG" />}
            {page.design && <FileLink to={`${path}/schematic.svg`} text="schematic, SVG" />}
            {page.design && filesOf(page, page.design.design).map((file) => <FileLink key={file.to} {...file} />)}
            {page.design && !page.commanded && <FileLink to={`${path}/step.cir?step=${selected}`} text={`step ${selected}, SPICE`} />}
            <FileLink to={`${path}/readings.csv`} text="readings, CSV" />
            <FileLink to={`${path}/bundle.json`} text="whole job, JSON" />
          </ul>
        </div>
        <ImportFile
          title="Readings from a file"
          hint="CSV: step; speed (rpm); motor volts (V); line current (mA); who. Commas or semicolons, decimal commas too. Step empty: full speed. Ohms read warm say so: 215 warm, 215 at 60 °C."
          url={`${path}/readings/import`}
          accept=".csv,.txt,text/csv"
          onTaken={async () => {
            const answer = await api.GET('/api/jobs/{job_id}', { params: { path: { job_id: jobId } } });
            if (answer.data) take(answer.data);
          }}
        />
      </section>
    </div>
  );
}

function FileLink({ to, text, inside }: { to: string; text: string; inside?: boolean }) {
  return (
    <li>
      {inside ? (
        <Link to={to} className="link-button inline-flex items-center">
          {text}
        </Link>
      ) : (
        <a href={to} target="_blank" rel="noreferrer" className="link-button inline-flex items-center">
          {text}
        </a>
      )}
    </li>
  );
}

function Sign({ page, standing }: { page: JobPageData } & { standing: string }) {
  const { who, setWho } = useWho();
  const [note, setNote, clearNote] = useTyped(`${page.job.id} hand-over note`, '');
  const [recheck, setRecheck, clearRecheck] = useTyped(`${page.job.id} re-check`, '');
  const [problem, setProblem] = useState<Problem | null>(null);
  const jobId = page.job.id;
  const sign = useSave(jobId, () =>
    api.POST('/api/jobs/{job_id}/handovers', {
      params: { path: { job_id: jobId } },
      body: { who, note, recheck_on: recheck || null },
    }),
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    sign.mutate(undefined, {
      onSuccess: () => {
        setProblem(null);
        clearNote();
        clearRecheck();
      },
      onError: (error) => setProblem(problemOf(error)),
    });
  };
  return (
    <form onSubmit={submit}>
      <h2 className="heading mb-1">Sign</h2>
      {page.handovers.length > 0 && (
        <ul className="mb-2 text-body">
          {page.handovers.map((h) => (
            <li key={h.id} className="row-line py-1">
              {h.imported ? '○' : '●'} {h.who}, {when(h.at)}
              {h.recheck_on && `; re-check ${day(h.recheck_on)}`}
              {h.revision !== null && (
                <span className="quiet">
                  {' '}
                  · revision {h.revision}, core {h.core_version}
                </span>
              )}
              {h.imported && <strong className="block">Imported, not verified here: nobody signed in this Fenwit.</strong>}
              {h.note && <span className="quiet block">{h.note}</span>}{' '}
              <Link to={`/jobs/${jobId}/print?signed=${h.id}`} className="underline">
                as signed
              </Link>
            </li>
          ))}
        </ul>
      )}
      <div className="grid grid-cols-2 gap-x-5 gap-y-1">
        <label className="block">
          <span className="quiet block text-note">handed over by</span>
          <input id="sign" className="input" value={who} maxLength={120} onChange={(e) => setWho(e.target.value)} aria-invalid={problem?.field === 'who'} />
        </label>
        <label className="block">
          <span className="quiet block text-note">re-check on</span>
          <input
            className="input mono"
            value={recheck}
            placeholder="1 Nov 2027, or 12 months"
            maxLength={40}
            onChange={(e) => setRecheck(e.target.value)}
            aria-invalid={problem?.field === 'recheck_on'}
          />
        </label>
        <label className="col-span-2 block">
          <span className="quiet block text-note">remark</span>
          <input className="input" value={note} maxLength={2000} onChange={(e) => setNote(e.target.value)} placeholder="nothing to add" />
        </label>
      </div>
      {page.design && !page.frame?.proved && (
        <p className="mt-2 border-l-2 border-hazard pl-2 text-body">
          <span className="font-semibold">Not every step is proved: {standing}.</span> <span className="quiet">The report says so.</span>
        </p>
      )}
      <button type="submit" className="button mt-3" disabled={sign.isPending || !page.design}>
        Hand over
      </button>
      {problem && (
        <p role="alert" className="mt-1 text-copper">
          {problem.detail} {problem.allowed && <span className="quiet">— {problem.allowed}</span>}
        </p>
      )}
      <p className="quiet mt-1 text-note">The report is kept as it stands, with the core that computed it. Later changes do not touch it.</p>
    </form>
  );
}

/** Parts of the shelf that belong to this job: put aside, given back, used up. */
function ShelfParts({ page }: { page: JobPageData }) {
  const { who } = useWho();
  const jobId = page.job.id;
  const reserve = useSave(jobId, (to: { part_id: number; count: number }) =>
    api.PUT('/api/jobs/{job_id}/reservations', { params: { path: { job_id: jobId } }, body: { ...to, who } }),
  );
  const use = useSave(jobId, () => api.POST('/api/jobs/{job_id}/reservations/use', { params: { path: { job_id: jobId } }, body: { who } }));
  if (page.aside.length === 0) return null;
  const error = reserve.error ?? use.error;
  const anyAside = page.aside.some((a) => a.reserved > 0);
  return (
    <section aria-label="Parts from the shelf" className="mt-4">
      <h2 className="heading">Parts from the shelf</h2>
      <ul className="text-body">
        {page.aside.map((a) => (
          <li key={a.part_id} className="row-line flex items-center gap-4">
            <span className="flex-1">
              {a.text} <span className="quiet">{a.place}</span>
            </span>
            <span className="mono">
              {a.reserved} aside, {a.used} used, {a.free} free
            </span>
            <button
              type="button"
              className="link-button"
              disabled={reserve.isPending}
              onClick={() => reserve.mutate({ part_id: a.part_id, count: a.reserved > 0 ? 0 : 1 })}
            >
              {a.reserved > 0 ? 'give back' : 'put aside'}
            </button>
          </li>
        ))}
      </ul>
      {anyAside && (
        <button type="button" className="button mt-2" disabled={use.isPending} onClick={() => use.mutate(undefined)}>
          Built in: take them off the shelf
        </button>
      )}
      {error && (
        <p role="alert" className="text-copper">
          {problemOf(error).detail}
        </p>
      )}
    </section>
  );
}
