import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Problem } from '../../api/client';
import { unlessKept, useEdits } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';
import type { Save, Shown } from './api';

/** Mend it, with its parts and its proof under a lamp; or make a new design that takes its speeds over. */
export function Mend({ shown, save, onSearch }: { shown: Shown; save: Save; onSearch: () => void }) {
  const [problem, setProblem] = useState<Problem | null>(null);
  const mend = shown.repair;
  return (
    <div className="grid grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)] gap-10 max-[1000px]:grid-cols-1">
      <section aria-label="Mend it" className="min-w-0">
        <h3 className="heading">Mend it</h3>
        {!mend && (
          <p>
            Nothing was found to be the matter yet.{' '}
            <button type="button" className="link-button" onClick={onSearch}>
              Look for it
            </button>
          </p>
        )}
        {mend && (
          <>
            <p className="pb-1">
              Found: <b>{mend.said}</b>{' '}
              <button type="button" className="link-button" onClick={() => void save({ found: '' }, 'nothing found').then((p) => setProblem(unlessKept(p)))}>
                not so
              </button>
            </p>
            <Refusal problem={problem} />
            <ol className="list-none">
              {mend.parts.map((p, i) => (
                <li key={i} className="row-line grid grid-cols-[24px_minmax(0,1fr)] gap-2 py-1">
                  <span className="mono quiet">{i + 1}</span>
                  <span>
                    {p.what} <span className="quiet text-body">— {p.why}</span>
                  </span>
                </li>
              ))}
            </ol>
            <h3 className="heading pt-3">Then dead</h3>
            <ul className="list-none text-body">
              {mend.dead_tests.map((t) => (
                <li key={t} className="row-line py-1">
                  {t}
                </li>
              ))}
            </ul>
            <h3 className="heading pt-3">Then a lamp in the fan’s place, then the fan</h3>
            <p className="text-note text-caution">△ Isolating transformer, cover on, nothing touched under power. True rms volts across the lamp.</p>
            <table className="w-full text-body">
              <thead className="quiet text-left text-note">
                <tr>
                  <th className="font-normal">place</th>
                  <th className="font-normal">must show</th>
                  <th className="font-normal">average meter</th>
                  <th className="font-normal">read</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {mend.lamp.map((l) => (
                  <tr key={l.at} className="row-line align-top">
                    <td className="py-2">{l.name}</td>
                    <td className="mono py-2">{l.expected}</td>
                    <td className="mono py-2">{l.meter}</td>
                    <td className="w-36">
                      <ValueField
                        bare
                        label={`volts across the lamp at ${l.name}`}
                        text={l.reading}
                        hint="197 V"
                        onCommit={(volts) => save({ proof: [{ at: l.at, volts }] }, volts)}
                      />
                    </td>
                    <td className="py-2 pl-3">{l.holds === null ? '' : l.holds ? '○ holds' : <span className="text-copper">△ not so: look again</span>}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {mend.proved && <p className="pt-2 font-semibold">○ Proved under the lamp. Now the fan: slowest place first, then Prove as for any regulator.</p>}
          </>
        )}
      </section>
      <div className="min-w-0">
        <Anew shown={shown} />
        {shown.compared.length > 0 && (
          <section aria-label="Beside the design" className="pt-4">
            <h3 className="heading">Beside the design, at the wanted speeds</h3>
            <table className="w-full text-body">
              <thead className="quiet text-left text-note">
                <tr>
                  <th className="font-normal">worst step</th>
                  <th className="pr-3 font-normal">{shown.before_name}</th>
                  <th className="font-normal">{shown.after_name}</th>
                </tr>
              </thead>
              <tbody>
                {shown.compared.map((c) => (
                  <tr key={c.name} className="row-line">
                    <td className="py-1 pr-3">{c.name}</td>
                    <td className="mono">{c.before}</td>
                    <td className="mono">{c.after}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        )}
      </div>
    </div>
  );
}

/** A new design in one step: the wanted speeds are those of the job, or else this control's own. */
function Anew({ shown }: { shown: Shown }) {
  const { page, onClash } = useJobInHand();
  const { who } = useWho();
  const keep = useEdits(page.job.id, onClash);
  const navigate = useNavigate();
  const [problem, setProblem] = useState<Problem | null>(null);
  const wanted = page.job.wanted_rpm;
  const own = shown.takeover_rpm;
  const go = () => navigate(`/jobs/${page.job.id}/choose`);
  const take = async () => {
    const refused = unlessKept(
      await keep({
        kind: 'job',
        method: 'PUT',
        path: `/api/jobs/${page.job.id}/steps`,
        body: { wanted: own, who },
        versionField: 'version',
        from: page.job.version,
        replaces: { wanted_rpm: wanted },
        what: 'The wanted speeds',
        mine: own.join(', '),
      }),
    );
    setProblem(refused);
    if (!refused) void go();
  };
  return (
    <section aria-label="Or a new design">
      <h3 className="heading">Or a new design</h3>
      {shown.fan_missing && <p className="quiet">Wants {shown.fan_missing}.</p>}
      {wanted.length > 0 && (
        <p className="py-1">
          <button type="button" className="button" onClick={() => void go()}>
            Design anew at {wanted.map((w) => Math.round(w)).join(', ')} rpm
          </button>
        </p>
      )}
      {own.length > 0 && own.join() !== wanted.join() && (
        <p className="py-1">
          <button type="button" className="button" onClick={() => void take()}>
            Take over its own {own.map((w) => Math.round(w)).join(', ')} rpm
          </button>
        </p>
      )}
      <Refusal problem={problem} />
      <p className="quiet text-note">Choose then sets every way side by side at these speeds.</p>
    </section>
  );
}
