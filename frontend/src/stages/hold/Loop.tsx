import { Tabs } from 'radix-ui';
import { useState } from 'react';
import { answer, api, problemOf, type Problem, type Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Choice } from '../../ui/Choice';
import { FromFile } from '../../ui/FromFile';
import { ValueField } from '../../ui/ValueField';
import { AdviceList, Figures } from './Advice';
import type { LoopShown, LoopTyped, SaveHold } from './api';
import { LoopPlot } from './LoopPlot';

const HELD: Record<NonNullable<LoopTyped['held']>, string> = { flow: 'flow', pressure: 'pressure', speed: 'speed' };
const HINT: Record<NonNullable<LoopTyped['held']>, string> = { flow: '540 m³/h', pressure: '150 Pa', speed: '68 %' };

type Name = {
  [K in keyof LoopTyped]-?: LoopTyped[K] extends string | undefined ? K : never;
}[keyof LoopTyped];

const SETTINGS: readonly [Name, string, string][] = [
  ['gain', 'gain K_p', '0.5'],
  ['integral', 'integral time T_i', '4 s'],
  ['least', 'lowest command', '10 %'],
  ['sample', 'asks every', '0.5 s'],
  ['sensor_lag', 'sensor follows after', '1 s'],
  ['damper_factor', 'damper: resistance ×', '2.5'],
  ['damper_at', 'moves at', '10 s'],
  ['damper_back', 'and back at', 'stays'],
  ['total', 'watched for', '120 s'],
];
const SENSOR: readonly [Name, string, string][] = [
  ['range_low', 'gives from', '2 V'],
  ['range_high', 'to', '10 V'],
  ['low', 'which means', '0 Pa'],
  ['high', 'to', '300 Pa'],
  ['sensor_supply', 'fed with', '24 V'],
  ['sensor_takes', 'takes', '20 mA'],
  ['sensor_error', 'off by, of its range', '1 %'],
  ['cone', 'cone: m³/h a √Pa', '60'],
];

interface Props {
  typed: LoopTyped;
  shown: LoopShown | null;
  save: SaveHold;
}

/** The loop over a move of the damper, its settings, what they lead to. */
export function Loop({ typed, shown, save }: Props) {
  const put = (part: Partial<LoopTyped>, mine: string) => save({ loop: { ...typed, ...part } }, mine);
  const held = typed.held ?? 'flow';
  const field = ([name, label, hint]: readonly [Name, string, string]) => (
    <ValueField
      key={name}
      inputId={`hold-${name}`}
      label={label}
      text={typed[name] ?? ''}
      hint={hint}
      onCommit={(text) => put({ [name]: text }, `${label} ${text}`)}
    />
  );
  return (
    <div className="grid grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)] gap-8 max-[1000px]:grid-cols-1">
      <section aria-label="The loop over time" className="min-w-0">
        <div className="h-[330px]">{shown ? <LoopPlot shown={shown} /> : <p className="quiet">Nothing to draw yet.</p>}</div>
        {shown && <AdviceList advice={shown.advice} />}
        {shown && (
          <div className="mt-2">
            <Figures figures={shown.figures} />
          </div>
        )}
      </section>
      <section aria-label="Settings of the loop" className="min-w-0 text-body">
        <Choice
          label="held is"
          value={held}
          options={Object.keys(HELD)}
          say={(o) => HELD[o as keyof typeof HELD]}
          onPick={(o) => void put({ held: o as keyof typeof HELD, set_point: '' }, `hold ${o}`)}
        />
        <div className="grid grid-cols-3 gap-x-4">
          <ValueField
            inputId="hold-set_point"
            label="set point"
            text={typed.set_point ?? ''}
            hint={HINT[held]}
            onCommit={(text) => put({ set_point: text }, `set point ${text}`)}
          />
          {SETTINGS.map(field)}
        </div>
        {shown?.tuned && (
          <p className="py-1">
            <button
              type="button"
              className="button"
              onClick={() => shown.tuned && void put({ gain: shown.tuned.gain, integral: shown.tuned.integral }, 'tuned by its step')}
            >
              Take gain {shown.tuned.gain}, {shown.tuned.integral}
            </button>
            <span className="quiet pl-3 text-note">{shown.tuned.words}</span>
          </p>
        )}
        <Choice
          label="its integral"
          value={typed.clamped === false ? 'free' : 'clamped'}
          options={['clamped', 'free']}
          say={(o) => (o === 'clamped' ? 'rests at the ends' : 'runs on: winds up')}
          onPick={(o) => void put({ clamped: o === 'clamped' }, `integral ${o}`)}
        />
        <Choice
          label="its sensor’s tubes"
          value={typed.reversed ? 'reversed' : 'right'}
          options={['right', 'reversed']}
          say={(o) => (o === 'right' ? 'the right way round' : 'the wrong way round')}
          onPick={(o) => void put({ reversed: o === 'reversed' }, `tubes ${o}`)}
        />
        <Tabs.Root defaultValue="sensor" className="mt-1">
          <Tabs.List className="flex gap-6 border-b border-rule" aria-label="More about the loop">
            <Tabs.Trigger value="sensor" className="tab -mb-px">
              Sensor
            </Tabs.Trigger>
            <Tabs.Trigger value="step" className="tab -mb-px">
              Step test
            </Tabs.Trigger>
            <Tabs.Trigger value="others" className="tab -mb-px">
              Other ways
            </Tabs.Trigger>
          </Tabs.List>
          <Tabs.Content value="sensor">
            <div className="grid grid-cols-4 gap-x-4">{SENSOR.filter(([n]) => n !== 'cone' || held === 'flow').map(field)}</div>
            <Choice
              label="sensor lost: the fan"
              value={typed.reaction ?? 'full'}
              options={['full', 'least', 'stops']}
              say={(o) => ({ full: 'runs full', least: 'runs lowest', stops: 'stops' })[o] ?? o}
              onPick={(o) => void put({ reaction: o as NonNullable<LoopTyped['reaction']> }, `sensor lost: ${o}`)}
            />
            {shown?.sensor.map((s) => (
              <p key={s} className="pt-0.5 text-note first-letter:uppercase">
                {s}
              </p>
            ))}
          </Tabs.Content>
          <Tabs.Content value="step">
            <StepTest onTake={(read) => void put({ gain: read.gain, integral: read.integral }, 'tuned by a step test')} />
          </Tabs.Content>
          <Tabs.Content value="others">{shown && <Others shown={shown} />}</Tabs.Content>
        </Tabs.Root>
      </section>
    </div>
  );
}

function Others({ shown }: { shown: LoopShown }) {
  return (
    <table className="mt-2 w-full text-body">
      <thead className="quiet text-left text-note">
        <tr>
          <th className="font-normal">the same damper with</th>
          <th className="font-normal">before</th>
          <th className="font-normal">after</th>
        </tr>
      </thead>
      <tbody>
        {shown.others.map((o) => (
          <tr key={o.name} className="row-line">
            <td className="py-1">{o.name}</td>
            <td className="mono">{o.before}</td>
            <td className="mono">{o.after}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** A step of the command and what the sensor said, typed or out of a file. */
function StepTest({ onTake }: { onTake: (read: Schemas['StepRead']) => void }) {
  const { page } = useJobInHand();
  const [rows, setRows] = useState('');
  const [step, setStep] = useState('10 %');
  const [found, setFound] = useState<Schemas['StepRead'] | null>(null);
  const path = { path: { job_id: page.job.id } };
  const read = async (text: string, by: string): Promise<Problem | null> => {
    try {
      setFound(await answer(api.POST('/api/jobs/{job_id}/hold/step-test', { params: path, body: { rows: text, step: by } })));
      return null;
    } catch (error) {
      setFound(null);
      return problemOf(error);
    }
  };
  const take = async (file: string) => {
    const got = await answer(
      api.POST('/api/jobs/{job_id}/hold/step-test/import', {
        params: path,
        body: file,
        bodySerializer: (body: string) => body,
        headers: { 'Content-Type': 'text/csv' },
      }),
    );
    setRows(got.rows);
    return read(got.rows, step);
  };
  return (
    <div className="space-y-1 pt-1">
      <p className="quiet text-note">Set by hand, step the command once from a settled fan, and note what the sensor says until it rests again.</p>
      <FromFile heading="Step test" label="step test file" take={take} />
      <ValueField
        inputId="step-rows"
        label="seconds and reading, one sample a line"
        text={rows}
        hint={'0  412\n1  415\n2  431'}
        lines={4}
        onCommit={(text) => {
          setRows(text);
          return text.trim() ? read(text, step) : Promise.resolve(null);
        }}
      />
      <ValueField
        inputId="step-size"
        label="command stepped by"
        text={step}
        hint="10 %"
        onCommit={(text) => {
          setStep(text);
          return rows.trim() ? read(rows, text) : Promise.resolve(null);
        }}
      />
      {found && (
        <p>
          <button type="button" className="button" onClick={() => onTake(found)}>
            Take gain {found.gain}, {found.integral}
          </button>
          <span className="quiet pl-3 text-note">{found.words}</span>
        </p>
      )}
    </div>
  );
}
