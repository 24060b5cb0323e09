import { useState } from 'react';
import { problemOf, type JobPageData } from '../../api/client';
import { ValueField } from '../../ui/ValueField';
import { useFiring } from './api';
import { asText, firingQuery, type Control, type FiringAsked } from './query';

const SPACINGS = [
  ['speed', 'speed'],
  ['angle', 'angle'],
  ['power', 'power'],
  ['volts', 'motor volts'],
  ['steps', 'the chosen steps'],
] as const;

interface Props {
  page: JobPageData;
  asked: Control;
  change: (part: Partial<Control>) => void;
}

type Unit = NonNullable<Control['unit']>;
type UnitText = 'lag' | 'detector' | 'detector_output' | 'ctr_low' | 'ctr_high';
const FIELDS: readonly [UnitText, string, string][] = [
  ['detector', 'detector resistor', '94k'],
  ['detector_output', 'its output sinks', '0.1mA'],
  ['ctr_low', 'transfer, least', '0.6'],
  ['ctr_high', 'transfer, most', '2'],
  ['lag', 'later by', '0 µs'],
];

/** Delays for a microcontroller: seen here, taken as CSV or C header. */
export function FiringTable({ page, asked, change }: Props) {
  const [spacing, setSpacing] = useState<NonNullable<FiringAsked['spacing']>>('speed');
  const [steps, setSteps] = useState('16');
  const [both, setBoth] = useState(false);
  const count = Number(steps);
  const good = Number.isInteger(count) && count >= 2 && count <= 256;
  const unit: Unit = asked.unit ?? {};
  const query = firingQuery(asked, spacing, good ? count : 16);
  const found = useFiring(page, query, good);
  const problem = found.error ? problemOf(found.error) : null;
  const set = (part: Partial<Unit>) => change({ unit: { ...unit, ...part } });
  const hertz = page.job.supply_frequency_hz;
  const file = (kind: string) => `/api/jobs/${page.job.id}/firing.${kind}?${asText({ ...query, both })}`;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)] gap-6 max-[1100px]:grid-cols-1">
      <div>
        {asked.fired_by === 'knob' && (
          <p className="quiet text-note">The control on this view is a knob with a diac; a table would serve a microcontroller in its place.</p>
        )}
        <div className="grid grid-cols-[1fr_64px_1.3fr_1.2fr] items-end gap-x-4">
          <label className="block">
            <span className="quiet block text-note">steps even in</span>
            <select className="input" value={spacing} onChange={(e) => setSpacing(e.target.value as typeof spacing)}>
              {SPACINGS.filter(([key]) => key !== 'steps' || page.design?.method === 'phase-angle').map(([key, text]) => (
                <option key={key} value={key}>
                  {text}
                </option>
              ))}
            </select>
          </label>
          <label className="block">
            <span className="quiet block text-note">steps</span>
            <input
              className="input mono"
              disabled={spacing === 'steps'}
              value={steps}
              inputMode="numeric"
              aria-invalid={!good}
              onChange={(e) => setSteps(e.target.value)}
            />
          </label>
          <label className="block">
            <span className="quiet block text-note">from the zero pulse&rsquo;s</span>
            <select className="input" value={unit.edge ?? 'middle'} onChange={(e) => set({ edge: e.target.value as Unit['edge'] })}>
              <option value="middle">middle</option>
              <option value="rising">rising edge</option>
            </select>
          </label>
          <label className="block">
            <span className="quiet block text-note">gate gets</span>
            <select className="input" value={unit.pulse ?? 'short'} onChange={(e) => set({ pulse: e.target.value as Unit['pulse'] })}>
              <option value="short">short pulse</option>
              <option value="train">train</option>
            </select>
          </label>
        </div>
        <div className="mt-1 grid grid-cols-5 items-end gap-x-4">
          {FIELDS.map(([key, label, hint]) => (
            <ValueField
              key={key}
              label={label}
              text={unit[key] ?? ''}
              hint={hint}
              onCommit={(text) => {
                set({ [key]: text });
                return Promise.resolve(null);
              }}
            />
          ))}
        </div>
        {!good && (
          <p role="alert" className="text-copper">
            2 to 256 steps
          </p>
        )}
        {problem && (
          <p role="alert" className="text-copper">
            {problem.detail} {problem.allowed && <span className="quiet">— {problem.allowed}</span>}
          </p>
        )}
        {good && !problem && (
          <div className="mt-2 flex flex-wrap items-center gap-4">
            <a className="button inline-flex items-center" href={file('csv')}>
              CSV
            </a>
            <a className="button inline-flex items-center" href={file('h')}>
              C header
            </a>
            {(hertz === 50 || hertz === 60) && (
              <label className="flex min-h-11 items-center gap-2">
                <input type="checkbox" className="size-5" checked={both} onChange={(e) => setBoth(e.target.checked)} />
                for 50 and 60 Hz
              </label>
            )}
          </div>
        )}
        <ul className="mt-1 text-note">
          {found.data?.notes.slice(1).map((n) => (
            <li key={n} className={n.startsWith('- ') ? 'quiet pl-3' : 'row-line py-0.5'}>
              {n.replace(/^- /, '')}
            </li>
          ))}
        </ul>
      </div>
      {good && found.data && (
        <table className={`w-full self-start text-body ${found.isFetching ? 'opacity-60' : ''}`} aria-label="Firing table">
          <thead className="quiet text-note">
            <tr className="text-right">
              <th className="font-normal">step</th>
              <th className="font-normal">fires at</th>
              <th className="font-normal">delay, µs</th>
              <th className="font-normal">gate, at least µs</th>
              <th className="font-normal">speed, rpm</th>
              <th className="pl-4 text-left font-normal">from rest</th>
            </tr>
          </thead>
          <tbody className="mono">
            {found.data.rows.map((r) => (
              <tr key={r.step} className="row-line text-right">
                <td className="py-0.5">{r.step}</td>
                <td>{r.firing_deg.toFixed(1)}°</td>
                <td>{r.delay_us.toFixed(0)}</td>
                <td>{r.gate_us < 1 ? '<1' : r.gate_us.toFixed(0)}</td>
                <td>{r.speed_rpm.toFixed(0)}</td>
                <td className="pl-4 text-left font-sans">{r.starts ? 'starts' : 'needs the kick'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
