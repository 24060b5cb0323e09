import { useState } from 'react';
import type { Problem, Schemas } from '../../api/client';
import { MakerPanel } from '../shared/MakerPanel';
import { Choice } from '../../ui/Choice';
import { ValueField } from '../../ui/ValueField';
import type { Control, ControlShown, Source } from './api';

const SOURCE: Record<Source, string> = { knob: 'knob', steps: 'switched steps', filter: 'filtered pulses', analog: 'controller' };
const FOLLOWING: Record<NonNullable<Control['following']>, string> = {
  together: 'all on this source',
  speed: 'each hands its speed on',
  command: 'each hands its command on',
};

interface Props {
  shown: ControlShown | null;
  design: Control | null;
  source: Source;
  onSource: (source: Source) => void;
  onChoose: (design: Control) => Promise<Problem | null>;
  onTry: (design: Control | null) => void;
}

/** What makes the volts, and its settings. */
export function ControlForm({ shown, design, source, onSource, onChoose, onTry }: Props) {
  // What was looked at before may still be on screen while another source is worked out: that is not offered as its own.
  const first = shown?.usual?.source === source ? shown.usual : null;
  return (
    <MakerPanel
      label="The control"
      heading="What makes the volts"
      note={shown?.note}
      makers={SOURCE}
      maker={source}
      onMaker={onSource}
      first={design?.source === source ? null : first}
      takes={first?.volts.join(', ') ?? ''}
      quiet={`volts for the wanted speeds, by ${SOURCE[source]}`}
      onChoose={onChoose}
      onTry={onTry}
      facts={shown?.facts ?? []}
    >
      {design?.source === source && <Settings shown={shown} design={design} onChoose={onChoose} />}
    </MakerPanel>
  );
}

type Put = (part: Partial<Control>) => Promise<Problem | null>;

function Settings({ shown, design, onChoose }: { shown: ControlShown | null; design: Control; onChoose: Props['onChoose'] }) {
  const [more, setMore] = useState(false);
  const put: Put = (part) => onChoose({ ...design, ...part });
  const { knob, filter } = design;
  return (
    <div className="space-y-1">
      <div className="grid grid-cols-4 gap-x-4">
        {design.volts.map((v, i) => (
          <ValueField
            key={i}
            inputId={`control-${i}`}
            label={`step ${i + 1} volts`}
            text={v}
            onCommit={(text) => put({ volts: design.volts.map((own, k) => (k === i ? text : own)) })}
          />
        ))}
      </div>
      <div className="grid grid-cols-4 gap-x-4">
        {design.source === 'knob' && knob && (
          <>
            <ValueField inputId="control-pot" label="pot" text={knob.pot ?? ''} hint="10k" onCommit={(pot) => put({ knob: { ...knob, pot } })} />
            <ValueField inputId="control-top" label="end stop to 10 V" text={knob.top ?? ''} hint="none" onCommit={(top) => put({ knob: { ...knob, top } })} />
            <ValueField
              inputId="control-bottom"
              label="end stop to 0 V"
              text={knob.bottom ?? ''}
              hint="none"
              onCommit={(bottom) => put({ knob: { ...knob, bottom } })}
            />
            <ValueField label="pots may be off by" text={knob.spread ?? ''} hint="20 %" onCommit={(spread) => put({ knob: { ...knob, spread } })} />
          </>
        )}
        {design.source === 'steps' && (
          <ValueField inputId="control-chain" label="whole chain" text={design.chain ?? ''} hint="4k7" onCommit={(chain) => put({ chain })} />
        )}
        {design.source === 'analog' && (
          <ValueField
            inputId="control-source"
            label="its output’s ohms"
            text={design.source_ohm ?? ''}
            hint="100R"
            onCommit={(source_ohm) => put({ source_ohm })}
          />
        )}
        {design.source === 'filter' && filter && <FilterFields filter={filter} put={put} />}
      </div>
      {design.source === 'filter' && filter && (
        <Choice
          label="its stages"
          value={String(filter.stages ?? 2)}
          options={['1', '2']}
          onPick={(s) => void put({ filter: { ...filter, stages: Number(s) } })}
        />
      )}
      {shown?.filtered && (
        <p className="mono text-note">
          {shown.filtered.ripple_text}; {shown.filtered.settling_text}
          {shown.filtered.small_text && `; ${shown.filtered.small_text}`}
        </p>
      )}
      {shown?.better && (
        <button type="button" className="link-button" onClick={() => shown.better && void onChoose(shown.better)}>
          {design.source === 'knob' ? `take end stops that suit: ${shown.better_text}` : `take a filter that suits: ${shown.better_text}`}
        </button>
      )}
      <Choice
        label="a contact enables it"
        value={design.enable === false ? 'no' : 'yes'}
        options={['yes', 'no']}
        onPick={(o) => void put({ enable: o === 'yes' })}
      />
      <button type="button" className="link-button block" aria-expanded={more} onClick={() => setMore(!more)}>
        {more ? 'fewer settings' : 'cable, further fans, alarm lamps'}
      </button>
      {more && <Further design={design} another={shown?.another ?? null} put={put} />}
    </div>
  );
}

function FilterFields({ filter, put }: { filter: Schemas['FilterEdit']; put: Put }) {
  const own = (part: Partial<Schemas['FilterEdit']>) => put({ filter: { ...filter, ...part } });
  return (
    <>
      <ValueField inputId="control-amplitude" label="pulses of" text={filter.amplitude ?? ''} hint="5 V" onCommit={(amplitude) => own({ amplitude })} />
      <ValueField inputId="control-frequency" label="at" text={filter.frequency ?? ''} hint="1 kHz" onCommit={(frequency) => own({ frequency })} />
      <ValueField inputId="control-r" label="resistor" text={filter.resistance ?? ''} hint="10k" onCommit={(resistance) => own({ resistance })} />
      <ValueField inputId="control-c" label="capacitor" text={filter.capacitance ?? ''} hint="220n" onCommit={(capacitance) => own({ capacitance })} />
      <ValueField label="amplifier’s gain" text={filter.gain ?? ''} hint="2" onCommit={(gain) => own({ gain })} />
      <ValueField label="its offset" text={filter.offset ?? ''} hint="10 mV" onCommit={(offset) => own({ offset })} />
      <ValueField label="gain off by" text={filter.gain_error ?? ''} hint="1 %" onCommit={(gain_error) => own({ gain_error })} />
      <ValueField label="logic output’s ohms" text={filter.output ?? ''} hint="50R" onCommit={(output) => own({ output })} />
      <ValueField label="levels of the duty" text={filter.levels ?? ''} hint="256" onCommit={(levels) => own({ levels })} />
    </>
  );
}

const LINE: readonly [Exclude<keyof Schemas['FollowerEdit'], 'inverse'>, string][] = [
  ['slowest', 'slowest'],
  ['fastest', 'fastest'],
  ['off', 'stops below'],
  ['on', 'starts from'],
  ['low', 'rises from'],
  ['high', 'full from'],
];

/** Cable, fans that follow, alarm lamps. */
function Further({ design, another, put }: { design: Control; another: Schemas['FollowerEdit'] | null; put: Put }) {
  const cable = design.cable;
  const followers = design.followers ?? [];
  return (
    <div className="space-y-1">
      {cable && (
        <>
          <div className="grid grid-cols-4 gap-x-4">
            <ValueField label="cable to each fan" text={cable.length ?? ''} hint="12 m" onCommit={(length) => put({ cable: { ...cable, length } })} />
            <ValueField label="of" text={cable.area ?? ''} hint="0.5 mm²" onCommit={(area) => put({ cable: { ...cable, area } })} />
            <ValueField
              label="other amps in its 0 V"
              text={cable.ground ?? ''}
              hint="none"
              note="from each fan, as of an alarm relay"
              onCommit={(ground) => put({ cable: { ...cable, ground } })}
            />
          </div>
          <Choice
            label="it goes"
            value={cable.cabling ?? 'looped'}
            options={['looped', 'apart']}
            say={(o) => (o === 'looped' ? 'from fan to fan' : 'apart to each fan')}
            onPick={(o) => void put({ cable: { ...cable, cabling: o as 'looped' | 'apart' } })}
          />
        </>
      )}
      <Choice
        label="further fans are"
        value={design.following ?? 'together'}
        options={Object.keys(FOLLOWING)}
        say={(o) => FOLLOWING[o as keyof typeof FOLLOWING]}
        onPick={(o) => void put({ following: o as keyof typeof FOLLOWING })}
      />
      {followers.map((line, i) => (
        <div key={i} role="group" aria-label={`Fan ${i + 2}`} className="grid grid-cols-[52px_repeat(6,minmax(0,1fr))_74px_44px] items-end gap-x-2">
          <span className="pb-2.5 font-semibold">fan {i + 2}</span>
          {LINE.map(([name, label]) => (
            <ValueField
              key={name}
              label={label}
              text={line[name] ?? ''}
              onCommit={(text) => put({ followers: followers.map((own, k) => (k === i ? { ...own, [name]: text } : own)) })}
            />
          ))}
          <label className="flex items-center gap-1 pb-2.5 text-note">
            <input
              type="checkbox"
              checked={line.inverse ?? false}
              onChange={(e) => void put({ followers: followers.map((own, k) => (k === i ? { ...own, inverse: e.target.checked } : own)) })}
            />
            inverse
          </label>
          <button
            type="button"
            className="link-button"
            aria-label={`fan ${i + 2} is like the first`}
            onClick={() => void put({ followers: followers.filter((_, k) => k !== i) })}
          >
            drop
          </button>
        </div>
      ))}
      {another && (
        <button type="button" className="link-button" onClick={() => void put({ followers: [...followers, another] })}>
          a further fan with a map of its own
        </button>
      )}
      <Choice label="lamps for alarm" value={design.alarm === false ? 'no' : 'yes'} options={['yes', 'no']} onPick={(o) => void put({ alarm: o === 'yes' })} />
    </div>
  );
}
