import { useState } from 'react';
import type { Problem } from '../../api/client';
import { MakerPanel } from '../shared/MakerPanel';
import { Choice } from '../../ui/Choice';
import { ValueField } from '../../ui/ValueField';
import { BoxSettings } from './BoxSettings';
import type { Duty, Maker, SignalShown } from './api';

export const MAKER: Record<Maker, string> = {
  microcontroller: 'microcontroller',
  'timer-diodes': 'timer, diodes',
  'timer-plain': 'timer, plain',
  'one-shot': 'one-shot',
  bench: 'bench box',
};
const PICKED: Record<NonNullable<NonNullable<Duty['controller']>['picked_by']>, string> = {
  jumpers: 'jumpers',
  dip: 'DIP switch',
  knob: 'knob',
  encoder: 'encoder',
};

interface Props {
  shown: SignalShown | null;
  design: Duty | null;
  maker: Maker;
  onMaker: (maker: Maker) => void;
  onChoose: (design: Duty) => Promise<Problem | null>;
  onTry: (design: Duty | null) => void;
}

/** What makes the duty, and its settings. */
export function SignalForm({ shown, design, maker, onMaker, onChoose, onTry }: Props) {
  // What was looked at before may still be on screen while another maker is worked out: that is not offered as its own.
  const first = shown?.usual?.maker === maker ? shown.usual : null;
  return (
    <MakerPanel
      label="The signal"
      heading="What makes the duty"
      note={shown?.note}
      makers={MAKER}
      maker={maker}
      onMaker={onMaker}
      first={design?.maker === maker ? null : first}
      takes={first?.duties.join(', ') ?? ''}
      quiet={`duties for the wanted speeds, made by ${MAKER[maker]}`}
      onChoose={onChoose}
      onTry={onTry}
      facts={shown?.facts ?? []}
    >
      {design?.maker === maker && <Settings shown={shown} design={design} onChoose={onChoose} />}
    </MakerPanel>
  );
}

function Settings({ shown, design, onChoose }: { shown: SignalShown | null; design: Duty; onChoose: Props['onChoose'] }) {
  const [more, setMore] = useState(false);
  const programmed = design.maker === 'microcontroller' || design.maker === 'bench';
  const controller = design.controller;
  const timer = design.timer;
  const put = (part: Partial<Duty>) => onChoose({ ...design, ...part });
  return (
    <div className="space-y-1">
      <div className="grid grid-cols-4 gap-x-4">
        {design.duties.map((d, i) => (
          <ValueField
            key={i}
            inputId={`duty-${i}`}
            label={`step ${i + 1} duty`}
            text={d}
            onCommit={(text) => put({ duties: design.duties.map((own, k) => (k === i ? text : own)) })}
          />
        ))}
      </div>
      <div className="grid grid-cols-4 gap-x-4">
        <ValueField inputId="signal-frequency" label="frequency" text={design.frequency ?? ''} hint="25 kHz" onCommit={(frequency) => put({ frequency })} />
        <ValueField inputId="signal-stages" label="inverting stages" text={design.stages ?? ''} hint="1" onCommit={(stages) => put({ stages })} />
        {programmed && controller && (
          <>
            <ValueField
              inputId="signal-clock"
              label="clock of the timer"
              text={controller.clock ?? ''}
              hint="16 MHz"
              onCommit={(clock) => put({ controller: { ...controller, clock } })}
            />
            <ValueField
              inputId="signal-bits"
              label="its bits"
              text={controller.bits ?? ''}
              hint="8"
              onCommit={(bits) => put({ controller: { ...controller, bits } })}
            />
          </>
        )}
        {!programmed && timer && (
          <>
            <ValueField inputId="signal-pot" label="pot" text={timer.pot_ohm ?? ''} hint="100k" onCommit={(pot_ohm) => put({ timer: { ...timer, pot_ohm } })} />
            <ValueField
              inputId="signal-c"
              label="capacitor"
              text={timer.capacitance ?? ''}
              hint="330p"
              onCommit={(capacitance) => put({ timer: { ...timer, capacitance } })}
            />
            <ValueField
              inputId="signal-high"
              label="end resistor, charging"
              text={timer.high_ohm ?? ''}
              hint="1k"
              onCommit={(high_ohm) => put({ timer: { ...timer, high_ohm } })}
            />
            <ValueField
              inputId="signal-low"
              label="end resistor, discharging"
              text={timer.low_ohm ?? ''}
              hint="1k"
              onCommit={(low_ohm) => put({ timer: { ...timer, low_ohm } })}
            />
            <ValueField
              inputId="signal-supply"
              label="supply of the timer"
              text={timer.supply ?? ''}
              hint="12 V"
              onCommit={(supply) => put({ timer: { ...timer, supply } })}
            />
          </>
        )}
      </div>
      <Choice
        label="the lead is"
        value={design.drive ?? 'open-drain'}
        options={['open-drain', 'push-pull']}
        say={(d) => (d === 'open-drain' ? 'pulled low only, open drain' : 'driven both ways')}
        onPick={(drive) => void put({ drive: drive as NonNullable<Duty['drive']> })}
      />
      {!programmed && timer && (
        <Choice
          label="it charges from"
          value={timer.rail_to_rail ? 'supply' : 'output'}
          options={['supply', 'output']}
          say={(o) => (o === 'supply' ? 'the supply, or a CMOS output' : 'a bipolar output, 1.5 V below')}
          onPick={(o) => void put({ timer: { ...timer, rail_to_rail: o === 'supply' } })}
        />
      )}
      {programmed && controller && (
        <Choice
          label="a step is picked by"
          value={controller.picked_by ?? 'dip'}
          options={Object.keys(PICKED)}
          say={(p) => PICKED[p as keyof typeof PICKED]}
          onPick={(p) => void put({ controller: { ...controller, picked_by: p as keyof typeof PICKED } })}
        />
      )}
      <Choice
        label="the logic is fed by"
        value={design.logic_switching ? 'switching' : 'linear'}
        options={['linear', 'switching']}
        say={(o) => (o === 'linear' ? 'a linear regulator' : 'a switching one')}
        onPick={(o) => void put({ logic_switching: o === 'switching' })}
      />
      <Choice
        label="the fans start"
        value={design.one_by_one ? 'one' : 'all'}
        options={['all', 'one']}
        say={(o) => (o === 'all' ? 'all at once' : 'one after the other')}
        onPick={(o) => void put({ one_by_one: o === 'one' })}
      />
      {programmed && controller && shown && shown.choices.length > 0 && (
        <table className="w-full text-note" aria-label="Settings of the timer">
          <thead className="quiet text-left">
            <tr>
              <th className="font-normal">mode</th>
              <th className="font-normal">prescaler</th>
              <th className="font-normal">TOP</th>
              <th className="font-normal">it makes</th>
              <th className="font-normal">off by</th>
              <th className="font-normal">levels</th>
              <th />
            </tr>
          </thead>
          <tbody className="mono">
            {shown.choices.map((c, i) => (
              <tr key={`${c.mode} ${c.prescaler} ${c.top}`} className={`row-line ${(controller.choice ?? 0) === i ? 'bg-shade/60' : ''}`}>
                <td>{c.mode}</td>
                <td>÷ {c.prescaler}</td>
                <td>{c.top}</td>
                <td>{c.frequency_text}</td>
                <td>{c.error_text}</td>
                <td>{c.levels}</td>
                <td className="text-right font-sans">
                  {(controller.choice ?? 0) === i ? (
                    'taken'
                  ) : (
                    <button
                      type="button"
                      className="link-button"
                      aria-label={`take TOP ${c.top}, prescaler ${c.prescaler}`}
                      onClick={() => void put({ controller: { ...controller, choice: i } })}
                    >
                      take
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {design.maker === 'bench' && shown && <BoxSettings shown={shown} design={design} onChoose={onChoose} />}
      {shown?.over && <p className="mono text-note">{shown.over.spread_text}</p>}
      {shown?.centred && (
        <button type="button" className="link-button" onClick={() => shown.centred && void onChoose(shown.centred)}>
          {design.maker !== 'one-shot'
            ? `take ${shown.centred.timer?.capacitance ?? ''}: centres the band`
            : `take a pot of ${shown.centred.timer?.pot_ohm ?? ''}: no pulse is swallowed`}
        </button>
      )}
      <button type="button" className="link-button block" aria-expanded={more} onClick={() => setMore(!more)}>
        {more ? 'fewer settings' : 'driver, logic amps, and more'}
      </button>
      {more && (
        <div className="grid grid-cols-4 gap-x-4">
          <ValueField label="driver sinks" text={design.driver ?? ''} hint="20 mA" onCommit={(driver) => put({ driver })} />
          {design.drive === 'push-pull' && <ValueField label="driven to" text={design.high ?? ''} hint="5 V" onCommit={(high) => put({ high })} />}
          <ValueField label="logic takes" text={design.logic ?? ''} hint="30 mA" onCommit={(logic) => put({ logic })} />
          {programmed && controller && (
            <>
              <ValueField
                label="prescalers"
                text={controller.prescalers ?? ''}
                hint="1, 8, 64"
                onCommit={(prescalers) => put({ controller: { ...controller, prescalers } })}
              />
              <ValueField
                label="no set point for"
                text={controller.time_out ?? ''}
                hint="2 s"
                onCommit={(time_out) => put({ controller: { ...controller, time_out } })}
              />
            </>
          )}
          {!programmed && timer && (
            <>
              <ValueField
                label="shortest pulse passed on"
                text={timer.minimum_pulse ?? ''}
                hint="0.5 us"
                onCommit={(minimum_pulse) => put({ timer: { ...timer, minimum_pulse } })}
              />
              <ValueField label="comparators late by" text={timer.delay ?? ''} hint="200 ns" onCommit={(delay) => put({ timer: { ...timer, delay } })} />
              <ValueField label="stray capacitance" text={timer.stray ?? ''} hint="15 pF" onCommit={(stray) => put({ timer: { ...timer, stray } })} />
              <ValueField
                label="low output leaves"
                text={timer.saturation ?? ''}
                hint="0.1 V"
                onCommit={(saturation) => put({ timer: { ...timer, saturation } })}
              />
              {design.maker === 'one-shot' && (
                <ValueField
                  label="trigger low for"
                  text={timer.trigger_low ?? ''}
                  hint="1 us"
                  onCommit={(trigger_low) => put({ timer: { ...timer, trigger_low } })}
                />
              )}
            </>
          )}
        </div>
      )}
    </div>
  );
}
