import { Tabs } from 'radix-ui';
import { useState } from 'react';
import { answer, api, problemOf, type Problem } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Choice } from '../../ui/Choice';
import { FromFile } from '../../ui/FromFile';
import { ValueField } from '../../ui/ValueField';
import { AdviceList, Figures } from './Advice';
import type { CoolingShown, HeatTyped, SaveHold, SinkTyped } from './api';
import { CurvePlot, type Moved } from './CurvePlot';
import { HourPlot } from './HourPlot';
import { LoadEditor, type LoadPiece } from './LoadEditor';

type Name = {
  [K in keyof HeatTyped]-?: HeatTyped[K] extends string | undefined ? K : never;
}[keyof HeatTyped];
type SinkName = Exclude<keyof SinkTyped, 'load'>;

const CURVE: readonly [Name, string, string][] = [
  ['start', 'starts at', '32 °C'],
  ['hysteresis', 'stops lower by', '3 K'],
  ['full', 'full from', '55 °C'],
  ['least', 'least speed', '30 %'],
  ['kick', 'full speed first for', '1 s'],
  ['ambient', 'air that comes in', '25 °C'],
  ['warmest', 'at its warmest', '25 °C'],
  ['total', 'looked at for', '1 h'],
];
const SINK: readonly [SinkName, string, string][] = [
  ['name', 'called', 'left rail'],
  ['natural', 'cools standing', '2.5 K/W'],
  ['forced', 'full speed adds', '0.6 K/W'],
  ['capacity', 'stores', '200 J/K'],
  ['device', 'device to sink', '0 K/W'],
  ['limit', 'device bears', '90 °C'],
  ['lag', 'sensor lags', '0 s'],
  ['offset', 'sensor reads off by', '0 K'],
  ['exponent', 'exponent of the air', '0.6'],
];
const NTC: readonly [Name, string, string][] = [
  ['r25', 'ohms at 25 °C', '10k'],
  ['beta', 'B', '3950'],
  ['series', 'resistor above it', '10k'],
  ['supply', 'fed with', '5 V'],
];
const LINEAR: readonly [Name, string, string][] = [
  ['zero', 'at 0 °C', '0.5 V'],
  ['per_k', 'a kelvin', '10 mV'],
  ['supply', 'converter full at', '5 V'],
];
const ENDS: readonly [Name, string, string][] = [
  ['start_low', 'start, slow end', '18 °C'],
  ['start_high', 'start, fast end', '48 °C'],
  ['full_low', 'full, slow end', '38 °C'],
  ['full_high', 'full, fast end', '75 °C'],
];

interface Props {
  typed: HeatTyped;
  shown: CoolingShown | null;
  fullRpm: number;
  save: SaveHold;
  onTry: (edit: HeatTyped | null) => void;
}

/** The curve between its handles, the simulated time beneath, sinks and their loads. */
export function Heat({ typed, shown, fullRpm, save, onTry }: Props) {
  const { page } = useJobInHand();
  const [sink, setSink] = useState(0);
  const put = (part: Partial<HeatTyped>, mine: string) => save({ heat: { ...typed, ...part } }, mine);
  const sinks = typed.sinks ?? [];
  const at = Math.min(sink, Math.max(0, sinks.length - 1));
  const mine = sinks[at];
  const putSink = (part: Partial<SinkTyped>, words: string) => put({ sinks: sinks.map((s, i) => (i === at ? { ...s, ...part } : s)) }, words);
  const moved = (m: Moved): HeatTyped => {
    const start = shown?.curve[1]?.temperature_c ?? 0;
    const stop = shown?.stop_c ?? 0;
    return {
      ...typed,
      // The stop goes with the start; what is dragged alone is the distance between them.
      ...(m.start === undefined ? {} : { start: `${m.start} °C` }),
      ...(m.full === undefined ? {} : { full: `${m.full} °C` }),
      ...(m.least === undefined ? {} : { least: `${Math.round(100 * m.least)} %` }),
      ...(m.stop === undefined ? {} : { hysteresis: `${Math.max(0.5, start - (m.start === undefined ? m.stop : stop)).toFixed(1)} K` }),
    };
  };
  const drop = (m: Moved) => {
    void save({ heat: moved(m) }, 'the curve').then(() => onTry(null));
  };
  const field = ([name, label, hint]: readonly [Name, string, string]) => (
    <ValueField
      key={name}
      inputId={`hold-heat-${name}`}
      label={label}
      text={typed[name] ?? ''}
      hint={hint}
      onCommit={(text) => put({ [name]: text }, `${label} ${text}`)}
    />
  );
  const send = (url: 'load' | 'sink', file: string) => {
    const body = { params: { path: { job_id: page.job.id } }, body: file, bodySerializer: (b: string) => b, headers: { 'Content-Type': 'text/csv' } };
    return url === 'load' ? answer(api.POST('/api/jobs/{job_id}/hold/load/import', body)) : null;
  };
  const each = typed.one_each ?? false;
  return (
    <div className="space-y-3">
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.15fr)] gap-8 max-[1000px]:grid-cols-1">
        <section aria-label="The curve" className="min-w-0">
          <div className="h-[318px]">{shown && <CurvePlot shown={shown} fullRpm={fullRpm} onDrag={(m) => onTry(moved(m))} onDrop={drop} />}</div>
        </section>
        <section aria-label="Over the load" className="min-w-0">
          <div className="h-[318px]">{shown && <HourPlot shown={shown} each={each} />}</div>
        </section>
      </div>
      {shown && <AdviceList advice={shown.advice} />}
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.15fr)] gap-8 max-[1000px]:grid-cols-1">
        <section aria-label="Settings of the curve" className="min-w-0 text-body">
          <div className="grid grid-cols-4 gap-x-4">{CURVE.map(field)}</div>
          <Choice
            label="its ends are"
            value={typed.turned ? 'turned' : 'fixed'}
            options={['fixed', 'turned']}
            say={(o) => (o === 'fixed' ? 'fixed' : 'turned by two knobs')}
            onPick={(o) => void put({ turned: o === 'turned' }, `ends ${o}`)}
          />
          {typed.turned && <div className="grid grid-cols-4 gap-x-4">{ENDS.map(field)}</div>}
          {shown?.scales.map(({ name, marks_c: marks }) => (
            <p key={name} className="mono flex justify-between border-t border-rule text-note">
              <span className="quiet font-sans">{name}</span>
              {marks.map((c) => (
                <span key={c}>{Math.round(c)}°</span>
              ))}
            </p>
          ))}
          {shown && shown.runs.length > 0 && <Runs shown={shown} each={each} onPick={(e) => void put({ one_each: e }, e ? 'one each' : 'one controller')} />}
          {shown && <Figures figures={shown.figures} />}
        </section>
        <section aria-label="Heat sinks" className="min-w-0 text-body">
          <Tabs.Root value={String(at)} onValueChange={(v) => setSink(Number(v))}>
            <div className="flex items-center justify-between border-b border-rule">
              <Tabs.List className="flex gap-6" aria-label="Heat sinks">
                {sinks.map((s, i) => (
                  <Tabs.Trigger key={i} value={String(i)} className="tab -mb-px">
                    {s.name || `sink ${i + 1}`}
                    {shown?.sinks[i] && !shown.sinks[i].holds && <span className="text-copper"> △</span>}
                  </Tabs.Trigger>
                ))}
              </Tabs.List>
              <span className="flex gap-4">
                {sinks.length < 8 && mine && (
                  <button
                    type="button"
                    className="link-button"
                    onClick={() => void put({ sinks: [...sinks, { ...mine, name: '' }] }, 'one more sink').then(() => setSink(sinks.length))}
                  >
                    one more
                  </button>
                )}
                {sinks.length > 1 && (
                  <button type="button" className="link-button" onClick={() => void put({ sinks: sinks.filter((_, i) => i !== at) }, 'one sink less')}>
                    take it out
                  </button>
                )}
              </span>
            </div>
            <Tabs.Content value={String(at)} tabIndex={-1}>
              {shown?.sinks[at] && (
                <p className="pt-1">
                  <b>{shown.sinks[at].worst_text}</b>
                  {shown.sinks[at].margin_text && <span className={shown.sinks[at].holds ? 'quiet' : 'text-copper'}>; {shown.sinks[at].margin_text}</span>}
                </p>
              )}
              {shown?.sinks[at] && (
                <LoadEditor
                  key={typed.sinks?.[at]?.load}
                  pieces={shown.sinks[at].load}
                  onDrop={(pieces) => void putSink({ load: loadText(pieces) }, 'the load')}
                />
              )}
              {shown?.sinks[at] && <p className="quiet text-note">Held for good: {shown.sinks[at].steady.join('; ')}.</p>}
              {mine && (
                <>
                  <FromFile
                    heading="Load"
                    label="load file"
                    take={async (file) => {
                      const read = await send('load', file);
                      return read ? putSink({ load: read.rows }, 'the load') : null;
                    }}
                  />
                  <ValueField
                    key={`load ${at}`}
                    inputId={`hold-load-${at}`}
                    label="watts and how long, one piece a line; then again from the first"
                    text={mine.load ?? ''}
                    hint={'40 W 4 min\n2 W 40 s'}
                    lines={3}
                    onCommit={(load) => putSink({ load }, 'the load')}
                  />
                  <div className="grid grid-cols-4 gap-x-4">
                    {SINK.map(([name, label, hint]) => (
                      <ValueField
                        key={`${name} ${at}`}
                        inputId={`hold-sink-${at}-${name}`}
                        label={label}
                        mono={name !== 'name'}
                        text={mine[name] ?? ''}
                        hint={hint}
                        onCommit={(text) => putSink({ [name]: text }, `${label} ${text}`)}
                      />
                    ))}
                  </div>
                  <SinkLog onTake={(read) => putSink(read, 'the sink by its log')} ambient={typed.ambient ?? '25 °C'} />
                </>
              )}
            </Tabs.Content>
          </Tabs.Root>
        </section>
      </div>
      <details>
        <summary className="quiet min-h-9 cursor-pointer py-2 text-body">sensor, what happens when it is lost, table and header for the program</summary>
        <div className="grid grid-cols-2 gap-8 text-body max-[1000px]:grid-cols-1">
          <section aria-label="Sensor">
            <Choice
              label="read by"
              value={typed.sensor ?? 'ntc'}
              options={['ntc', 'linear']}
              say={(o) => (o === 'ntc' ? 'a thermistor' : 'a linear sensor')}
              onPick={(o) => void put({ sensor: o as NonNullable<HeatTyped['sensor']> }, `sensor ${o}`)}
            />
            <div className="grid grid-cols-4 gap-x-4">{(typed.sensor === 'linear' ? LINEAR : NTC).map(field)}</div>
            <Choice
              label="converter’s bits"
              value={String(typed.bits ?? 10)}
              options={['8', '10', '12', '16']}
              onPick={(o) => void put({ bits: Number(o) }, `${o} bits`)}
            />
            <Choice
              label="sensor lost: the fan"
              value={typed.reaction ?? 'full'}
              options={['full', 'least', 'stops']}
              say={(o) => ({ full: 'runs full', least: 'runs slowest', stops: 'stops' })[o] ?? o}
              onPick={(o) => void put({ reaction: o as NonNullable<HeatTyped['reaction']> }, `sensor lost: ${o}`)}
            />
            {shown && (
              <p className="flex gap-6">
                <a className="link-button" href={`/api/jobs/${page.job.id}/curve.h`} download>
                  C header
                </a>
                <a className="link-button" href={`/api/jobs/${page.job.id}/curve.csv`} download>
                  table, CSV
                </a>
              </p>
            )}
          </section>
          {shown && (
            <section aria-label="Table for the program">
              <table className="w-full">
                <thead className="quiet text-left text-note">
                  <tr>
                    <th className="font-normal">°C</th>
                    <th className="font-normal">% of full speed</th>
                    <th className="font-normal">{shown.command_heading}</th>
                  </tr>
                </thead>
                <tbody className="mono">
                  {shown.table.map((row) => (
                    <tr key={row.temperature} className="row-line">
                      <td>{row.temperature}</td>
                      <td>{row.speed}</td>
                      <td>{row.command}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </section>
          )}
        </div>
      </details>
    </div>
  );
}

const loadText = (pieces: readonly LoadPiece[]) => pieces.map((p) => `${p.watts} W ${Number(p.seconds.toPrecision(6))} s`).join('\n');

function Runs({ shown, each, onPick }: { shown: CoolingShown; each: boolean; onPick: (each: boolean) => void }) {
  return (
    <table className="my-2 w-full">
      <thead className="quiet text-left text-note">
        <tr>
          <th className="font-normal">controlled by</th>
          <th className="font-normal">starts</th>
          <th className="font-normal">mean speed</th>
          <th className="font-normal">hottest</th>
          <th className="font-normal">energy</th>
          <th className="font-normal">noise</th>
        </tr>
      </thead>
      <tbody>
        {shown.runs.map((r, i) => {
          const mine = (i === 1) === each;
          return (
            <tr key={r.name} className={`row-line ${shown.runs.length > 1 && mine ? 'bg-shade/60' : ''}`}>
              <td className="py-1">
                {shown.runs.length > 1 ? (
                  <button type="button" className="link-button" aria-pressed={mine} onClick={() => onPick(i === 1)}>
                    {r.name}
                  </button>
                ) : (
                  r.name
                )}
              </td>
              <td className="mono">{r.starts}</td>
              <td className="mono">{r.mean}</td>
              <td className="mono">{r.worst}</td>
              <td className="mono">{r.energy}</td>
              <td>{r.noise}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** A sink out of a logged warm-up and cool-down. */
function SinkLog({ onTake, ambient }: { onTake: (read: Partial<SinkTyped>) => Promise<Problem | null>; ambient: string }) {
  const { page } = useJobInHand();
  const [words, setWords] = useState<{ text: string; doubts: readonly string[] } | null>(null);
  const take = async (file: string): Promise<Problem | null> => {
    try {
      const read = await answer(
        api.POST('/api/jobs/{job_id}/hold/sink/import', {
          params: { path: { job_id: page.job.id }, query: { ambient } },
          body: file,
          bodySerializer: (b: string) => b,
          headers: { 'Content-Type': 'text/csv' },
        }),
      );
      setWords({ text: read.words, doubts: read.doubts });
      return await onTake({ natural: read.natural, forced: read.forced, capacity: read.capacity });
    } catch (error) {
      return problemOf(error);
    }
  };
  return (
    <div>
      <FromFile heading="From a logged warm-up and cool-down" label="sink log file" take={take} />
      <p className="quiet text-note">Columns time (s), sink (C), speed (%), power (W); one stretch with the fan off, one with it on.</p>
      {words && <p className="text-note">Taken from the log: {words.text}.</p>}
      {words?.doubts.map((d) => (
        <p key={d} className="text-note text-copper">
          △ {d}
        </p>
      ))}
    </div>
  );
}
