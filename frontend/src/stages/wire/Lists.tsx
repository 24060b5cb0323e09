import { useState } from 'react';
import type { Problem } from '../../api/client';
import { unlessKept } from '../../api/save';
import { Refusal } from '../../ui/Refusal';
import { useTake, type Read, type WirePage } from './api';

const STAGE: Record<string, string> = {
  bond: 'Earths',
  neutral: 'Neutrals',
  switched: 'Switched wires',
  line: 'Lines',
  control: 'Low voltage',
  supply: 'The supply, last',
};

/** A tick that is kept with who and when; a second press takes it back. */
export function Tick({ read, what, say }: { read: Read; what: string; say: string }) {
  const take = useTake();
  const [problem, setProblem] = useState<Problem | null>(null);
  const done = read.text === 'yes';
  return (
    <span>
      <button
        type="button"
        role="checkbox"
        aria-checked={done}
        aria-label={say}
        className="flex size-10 cursor-pointer items-center justify-center text-title"
        onClick={() => void take(read, what, done ? '' : 'yes').then((p) => setProblem(unlessKept(p)))}
      >
        {done ? '☑' : '☐'}
      </button>
      {problem && <Refusal problem={problem} />}
    </span>
  );
}

/** The wires to lay in the order of the work, and the cables with their cores. */
export function Lists({ wire }: { wire: WirePage }) {
  const stages = [...new Set(wire.connections.map((c) => c.stage))];
  return (
    <div className="grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-x-8 gap-y-4 max-[1000px]:grid-cols-1">
      <section aria-label="Connections">
        <p className="quiet pb-1">
          Isolate and prove dead. Wire by the order below, the supply last; then dead tests, lamp test, the motor. Local code and licensed persons decide.
        </p>
        {wire.problems.map((p) => (
          <p key={p} className="text-copper">
            △ {p}
          </p>
        ))}
        {stages.map((stage) => (
          <div key={stage}>
            <h3 className="heading mt-2">{STAGE[stage] ?? stage}</h3>
            <ul>
              {wire.connections
                .filter((c) => c.stage === stage)
                .map((c) => (
                  <li
                    key={c.read.key}
                    className="row-line grid grid-cols-[40px_30px_minmax(0,1fr)_minmax(0,1fr)_minmax(0,1.2fr)_minmax(0,1fr)] items-center gap-x-2 max-[700px]:grid-cols-[40px_30px_1fr_1fr]"
                  >
                    <Tick read={c.read} what={`The tick of wire ${c.number}`} say={`wire ${c.number}, ${c.start} to ${c.end}`} />
                    <span className="quiet mono text-note">{c.number}</span>
                    <span className="mono">{c.start}</span>
                    <span className="mono">{c.end}</span>
                    <span className="text-body">
                      {c.cable ? `${c.cable}, ${c.core}` : <span className="quiet">wire</span>}
                      {c.sleeve && <span className="text-copper"> sleeved</span>}
                    </span>
                    <span className="quiet text-note">{c.read.told}</span>
                  </li>
                ))}
            </ul>
          </div>
        ))}
      </section>
      <section aria-label="Cables">
        <h2 className="heading">Cables</h2>
        <p className="quiet text-note">Colours are what is usual here. They never identify a wire: read it.</p>
        {wire.cables.length === 0 && <p className="quiet">Everything lies in one place; no cable is needed.</p>}
        <ul>
          {wire.cables.map((c) => (
            <li key={c.id} className="row-line py-1">
              <p>
                <b className="mono">{c.id}</b> {c.start} to {c.end} {c.size && <span className="quiet">{c.size}</span>}
              </p>
              <p className="text-body">{c.used.join(' · ') || 'no core used'}</p>
              <p className="quiet text-note">
                {c.spare.length ? `spare: ${c.spare.join(', ')}` : 'none spare'}
                {c.earth === 'joined' ? ' · earth joined at both ends' : c.earth === 'loose' ? ' · earth not joined' : ''}
              </p>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
