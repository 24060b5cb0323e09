import { Tabs } from 'radix-ui';
import { useState } from 'react';
import { usePhase, type Schemas } from '../../api/client';
import type { StageProps } from '../../pages/JobPage';
import { Knob } from './Knob';
import { KnobPlot } from './KnobPlot';
import { WavePlot } from './WavePlot';

const SPACINGS: readonly [string, string][] = [
  ['speed', 'speed'],
  ['angle', 'angle'],
  ['power', 'power'],
  ['volts', 'motor volts'],
];

/** What phase angle would do with this fan: speed over the knob, the waveforms of a step, parts, firing tables. */
export function PhaseAngle({ page, selected, onSelect }: Pick<StageProps, 'page' | 'selected' | 'onSelect'>) {
  const found = usePhase(page, selected || 1);
  const [tab, setTab] = useState('steps');
  const shown = found.data;
  if (!shown) return <p className="quiet">Solving triac and motor over all angles…</p>;
  if (shown.refused) return <p className="text-copper">Phase angle is refused: {shown.refused}.</p>;
  return (
    <div className="flex h-full min-h-[480px] flex-col">
      <div className="grid min-h-[250px] flex-[1_1_270px] grid-cols-2 gap-6 max-[900px]:grid-cols-1">
        <KnobPlot shown={shown} selected={selected} onSelect={onSelect} />
        {shown.wave ? <WavePlot wave={shown.wave} /> : <p className="quiet self-center">No waveform: {shown.steps.find((s) => s.step === selected)?.reason || 'choose a step that runs'}.</p>}
      </div>
      <Tabs.Root value={tab} onValueChange={setTab} className="mt-2 flex min-h-0 flex-[1_1_240px] flex-col">
        <Tabs.List className="flex shrink-0 gap-7 border-b border-rule" aria-label="About phase angle">
          {[
            ['steps', 'Steps and limits'],
            ['knob', 'Knob and diac'],
            ['table', 'Firing table'],
            ['parts', 'Parts around the triac'],
            ['crude', 'Cruder estimates'],
          ].map(([key, text]) => (
            <Tabs.Trigger key={key} value={key ?? ''} className="tab -mb-px">
              {text}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <Tabs.Content value="steps" className="min-h-0 flex-1 overflow-auto pt-1">
          <Steps shown={shown} selected={selected} onSelect={onSelect} />
        </Tabs.Content>
        <Tabs.Content value="knob" className="min-h-0 flex-1 overflow-auto pt-1">
          <Knob page={page} />
        </Tabs.Content>
        <Tabs.Content value="table" className="min-h-0 flex-1 overflow-auto pt-1">
          <Table jobId={page.job.id} hertz={page.job.supply_frequency_hz} />
        </Tabs.Content>
        <Tabs.Content value="parts" className="min-h-0 flex-1 overflow-auto pt-1">
          <Parts shown={shown} />
        </Tabs.Content>
        <Tabs.Content value="crude" className="min-h-0 flex-1 overflow-auto pt-1">
          <Crude shown={shown} />
        </Tabs.Content>
      </Tabs.Root>
    </div>
  );
}

type Shown = Schemas['PhaseShown'];

function Steps({ shown, selected, onSelect }: { shown: Shown; selected: number; onSelect: (step: number) => void }) {
  return (
    <div className="grid grid-cols-[minmax(0,1.7fr)_minmax(0,1fr)] gap-6 max-[900px]:grid-cols-1">
      <table className="w-full self-start text-[14px]">
        <thead className="quiet text-left text-[13px]">
          <tr>
            <th className="w-8 font-normal">step</th>
            <th className="w-20 text-right font-normal">angle</th>
            <th className="w-32 pr-4 text-right font-normal">speed</th>
            <th className="font-normal">motor volts, amps, watts and more</th>
          </tr>
        </thead>
        <tbody>
          {shown.steps.map((s) => (
            <tr key={s.step} className={`row-line cursor-pointer align-baseline ${s.step === selected ? 'text-copper' : ''}`} onClick={() => onSelect(s.step)}>
              <td className="py-1 font-bold">{s.step}</td>
              <td className="mono text-right">{s.firing_deg === null ? '–' : `${s.firing_deg.toFixed(1)}°`}</td>
              <td className="mono pr-4 text-right whitespace-nowrap">{s.speed ? `${s.speed.number} rpm` : '–'}</td>
              <td className="text-[13px]">
                <span className="mono">{s.facts.join(' · ')}</span>
                {s.reason && <span className="quiet block">{s.reason}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <ul className="text-[14px]">
        {shown.limits.map((l) => (
          <li key={l} className="row-line py-1">
            {l}
          </li>
        ))}
        {shown.note && <li className="quiet py-1 text-[13px]">{shown.note}.</li>}
        <li className="quiet py-1 text-[13px]">This view reckons only: what a job can choose, prove and hand over so far is a bank in the line, and the staff and the power path show that.</li>
      </ul>
    </div>
  );
}

function Table({ jobId, hertz }: { jobId: number; hertz: number }) {
  const [spacing, setSpacing] = useState('speed');
  const [steps, setSteps] = useState('16');
  const [both, setBoth] = useState(false);
  const count = Number(steps);
  const good = Number.isInteger(count) && count >= 2 && count <= 256;
  const path = (kind: string) => `/api/jobs/${jobId}/firing.${kind}?spacing=${spacing}&steps=${count}${both ? '&both=true' : ''}`;
  return (
    <div className="max-w-[720px]">
      <p className="quiet text-[14px]">Delays for a microcontroller, even in what is chosen, cut off where a short pulse is not safe and where the fan no longer holds. What must happen on a lost zero, a missed message and power return stands in the file.</p>
      <div className="mt-2 flex flex-wrap items-end gap-5">
        <label className="block w-40">
          <span className="quiet block text-[13px]">even steps of</span>
          <select className="input" value={spacing} onChange={(e) => setSpacing(e.target.value)}>
            {SPACINGS.map(([key, text]) => (
              <option key={key} value={key}>
                {text}
              </option>
            ))}
          </select>
        </label>
        <label className="block w-24">
          <span className="quiet block text-[13px]">steps</span>
          <input className="input mono" value={steps} inputMode="numeric" aria-invalid={!good} onChange={(e) => setSteps(e.target.value)} />
        </label>
        {(hertz === 50 || hertz === 60) && (
          <label className="flex min-h-11 items-center gap-2">
            <input type="checkbox" className="size-5" checked={both} onChange={(e) => setBoth(e.target.checked)} />
            for 50 and 60 Hz
          </label>
        )}
        {good ? (
          <>
            <a className="button inline-flex items-center" href={path('csv')}>
              CSV
            </a>
            <a className="button inline-flex items-center" href={path('h')}>
              C header
            </a>
          </>
        ) : (
          <p role="alert" className="text-copper">
            2 to 256 steps
          </p>
        )}
      </div>
    </div>
  );
}

function Parts({ shown }: { shown: Shown }) {
  return (
    <div className="grid grid-cols-2 gap-6 max-[900px]:grid-cols-1">
      <table className="w-full self-start text-[14px]">
        <thead className="quiet text-left text-[13px]">
          <tr>
            <th className="font-normal">part</th>
            <th className="pl-4 text-right font-normal">stress</th>
            <th className="text-right font-normal">rating</th>
            <th className="text-right font-normal">of it</th>
          </tr>
        </thead>
        <tbody>
          {shown.parts.map((p) => (
            <tr key={`${p.part} ${p.what}`} className={`row-line align-baseline ${p.met ? '' : 'font-semibold text-copper'}`}>
              <td className="py-1">
                {p.met ? '' : '△ '}
                {p.part}, {p.what}
                {p.words && <span className="quiet block text-[13px] font-normal">{p.words}</span>}
              </td>
              <td className="mono text-right whitespace-nowrap">{p.stress_text}</td>
              <td className="mono pl-4 text-right whitespace-nowrap">{p.rating_text}</td>
              <td className="mono pl-4 text-right whitespace-nowrap">{Math.round(100 * p.ratio)} %</td>
            </tr>
          ))}
        </tbody>
      </table>
      <ul className="text-[14px]">
        {shown.part_facts.map((f) => (
          <li key={f} className="row-line py-1">
            {f}
          </li>
        ))}
      </ul>
    </div>
  );
}

function Crude({ shown }: { shown: Shown }) {
  return (
    <div className="max-w-[760px]">
      <p className="quiet text-[14px]">How far off the usual short cuts are for this very fan, against the solved speed from rest.</p>
      <table className="mt-1 w-full text-[14px]">
        <thead className="quiet text-[13px]">
          <tr>
            <th className="text-left font-normal">firing angle</th>
            {shown.crude_deg.map((d) => (
              <th key={d} className="mono text-right font-normal">
                {d.toFixed(0)}°
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.crude.map((c) => (
            <tr key={c.name} className="row-line">
              <td className="py-1">{c.name}</td>
              {c.misses.map((m, i) => (
                <td key={i} className="mono text-right">
                  {m}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
