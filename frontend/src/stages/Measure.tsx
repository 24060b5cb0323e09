import { Popover, Tabs } from 'radix-ui';
import { problemOf, useInstruments, useStudy, type Problem, type Schemas } from '../api/client';
import { readingEdit, useEdits } from '../api/save';
import { useJobInHand } from '../job/context';
import { fieldId, useGo } from '../job/spot';
import { Cautions } from '../ui/Cautions';
import { ValueField } from '../ui/ValueField';
import { Why } from '../ui/Why';
import { useWho } from '../ui/who';
import { MeterChoice, useMeter } from './measure/Instruments';
import { Commanded } from './measure/Commanded';
import { Runs } from './measure/Runs';
import { ShrinkPlot } from './measure/ShrinkPlot';
import { Sweep } from './measure/Sweep';
import { TorquePlot } from './measure/TorquePlot';

type Wanted = Schemas['Wanted'];
type Check = Schemas['CheckRow'];

/** Read now and then; the rest of the readings that every fan gets stands in sight. */
const RARE = ['frequency_hz', 'power_factor', 'auxiliary_current_a', 'locked_rotor_current_a', 'run_up_s', 'hot_resistance_ohm', 'cold_temperature_c'];
/** Numbers of the model that explain themselves. */
const EXPLAINED = ['line_current_a', 'input_power_w', 'capacitor_voltage_v', 'main_resistance_ohm', 'auxiliary_resistance_ohm'];

/** Readings at full speed, with the power off and slowed down; what the model says of them, and what to read next. */
export default function Measure() {
  const { page, frame, selected, onSelect, onClash } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const [meter, setMeter] = useMeter();
  const study = useStudy(page, selected);
  const go = useGo(jobId);
  const save = useEdits(jobId, onClash);

  const take = (asked: Wanted, text: string, run: number | null = null, aside = false, by: number | null = meter): Promise<Problem | null> =>
    save(
      readingEdit(jobId, asked.label, text, asked.quantity, null, who, asked.reading_id, {
        ...(run === null ? {} : { run }),
        ...(by === null ? {} : { instrument: by }),
        ...(aside ? { aside } : {}),
      }),
    );

  const often = page.wanted_readings.filter((w) => !RARE.includes(w.quantity));
  const rare = page.wanted_readings.filter((w) => RARE.includes(w.quantity));
  const live = often.filter((w) => !w.dead);
  const dead = often.filter((w) => w.dead);
  const asides = [
    ...page.wanted_readings.filter((w) => w.aside).map((w) => ({ w, run: null as number | null, where: '' })),
    ...page.runs.flatMap((r) => r.readings.filter((w) => w.aside).map((w) => ({ w, run: r.id, where: `, ${r.label}` }))),
  ];

  const field = (asked: Wanted) => (
    <ValueField
      key={asked.quantity}
      inputId={fieldId(`reading:${asked.quantity}`)}
      label={[asked.label, asked.winding && `, ${asked.winding}`, asked.aside ? ', set aside' : asked.uncertainty && ` ${asked.uncertainty}`].join('')}
      text={asked.text}
      hint={asked.hint}
      disabled={asked.gated_by !== null && asked.text === ''}
      onCommit={(text) => take(asked, text)}
    />
  );

  function wantedOf(c: Check): { w: Wanted; run: number | null } | null {
    const list = c.run === null || c.run === undefined ? page.wanted_readings : (page.runs.find((r) => r.id === c.run)?.readings ?? []);
    const w = list.find((r) => r.quantity === c.quantity);
    return w ? { w, run: c.run ?? null } : null;
  }

  const shown = study.data;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.08fr)] gap-8 max-[1000px]:grid-cols-1">
      <section aria-label="Readings" className="min-w-0">
        <div className="mb-3 empty:hidden">
          <Cautions stage="measure" part="first" />
        </div>
        <div className="flex flex-wrap items-center justify-between gap-x-4">
          <h2 className="heading">{dead.length > 0 ? 'Power off, isolated, capacitor empty' : ''}</h2>
          <MeterChoice meter={meter} onPick={setMeter} />
        </div>
        <div className="grid grid-cols-3 items-start gap-x-3">{dead.map(field)}</div>
        <p className={`quiet text-note ${page.commanded ? 'hidden' : ''}`}>
          Ohms are taken as cold, unless written “215 warm” (straight after running) or “215 at 60 °C”.
        </p>
        <h2 className="heading mt-2">
          {page.control_input
            ? 'Running at full speed, its 10 V bridged to the input'
            : page.sweep
              ? 'Running at full speed, control lead open or at 100 %'
              : 'Running at full speed, nothing in the line'}
        </h2>
        <div className="grid grid-cols-3 items-start gap-x-3">{live.map(field)}</div>
        <details open={rare.some((w) => w.text)} className={rare.length === 0 ? 'hidden' : ''}>
          <summary className="quiet min-h-9 cursor-pointer py-2 text-body">more readings: hertz, power factor, rotor held, run-up, hot ohms</summary>
          <div className="grid grid-cols-3 items-start gap-x-3">{rare.map(field)}</div>
        </details>
        <Runs onTake={(asked, text, run) => take(asked, text, run)} />
        <Sweep onTake={(asked, text, run) => take(asked, text, run)} />
        <div className="mt-4">
          <Cautions stage="measure" part="rest" />
        </div>
      </section>
      <section aria-label="What the model says" className="flex min-w-0 flex-col">
        {study.isError && (
          <p role="alert" className="text-copper">
            {problemOf(study.error).detail}
          </p>
        )}
        {page.commanded ? (
          <Commanded />
        ) : !shown || shown.checks.length === 0 ? (
          <>
            <h2 className="heading mb-1">What the model says of them</h2>
            <p className="quiet">
              {frame.unsized
                ? `${frame.unsized} suits this motor; nothing of that is computed here yet. Readings are kept.`
                : frame.missing.length > 0
                  ? `Still needed: ${frame.missing.map((m) => m.text).join(', ')}.`
                  : 'Amps, watts and ohms tell how big this motor is; each one narrows the bands.'}
            </p>
          </>
        ) : (
          <Tabs.Root defaultValue="read">
            <Tabs.List aria-label="What the model says" className="-mt-2 mb-1 flex gap-6">
              <Tabs.Trigger value="read" className="tab">
                predicted and read
              </Tabs.Trigger>
              <Tabs.Trigger value="torque" className="tab">
                torque over speed
              </Tabs.Trigger>
              <Tabs.Trigger value="band" className="tab">
                how the band shrank
              </Tabs.Trigger>
            </Tabs.List>
            <Tabs.Content value="read" tabIndex={-1}>
              <Checks
                rows={shown.checks}
                onGo={(c) => void go(c.spot)}
                meterOf={(c) => wantedOf(c)?.w}
                onMeter={(c, id) => {
                  const found = wantedOf(c);
                  if (found) void take(found.w, found.w.text, found.run, found.w.aside, id);
                }}
                onAside={(c) => {
                  const found = wantedOf(c);
                  if (found) void take(found.w, found.w.text, found.run, true);
                }}
              />
            </Tabs.Content>
            <Tabs.Content value="torque" tabIndex={-1} className="h-[300px]">
              {shown.plot && <TorquePlot plot={shown.plot} selected={selected} onSelect={onSelect} />}
            </Tabs.Content>
            <Tabs.Content value="band" tabIndex={-1}>
              <ShrinkPlot shrinks={shown.shrinks} step={shown.shrink_step} />
            </Tabs.Content>
          </Tabs.Root>
        )}
        {asides.map(({ w, run, where }) => (
          <p key={`${w.quantity} ${run ?? 0}`} className="mt-1 text-body">
            Set aside: {w.label} {w.text}
            {where}.{' '}
            <button type="button" className="link-button" onClick={() => void take(w, w.text, run)}>
              take it in again
            </button>
          </p>
        ))}
        {frame.full && (
          <p className="mt-2">
            Full speed{' '}
            <Why of="full" className="mono text-title">
              {frame.full.number}
            </Why>{' '}
            rpm
            {!page.commanded && (
              <>
                ; the field turns at{' '}
                <Why of="synchronous" className="mono">
                  {frame.synchronous_rpm}
                </Why>{' '}
                rpm
              </>
            )}
            . <span className="quiet">{[shown?.rise_text, shown?.inertia_text].filter(Boolean).join(' ')}</span>
          </p>
        )}
        {shown && shown.next.length > 0 && (
          <div className="mt-2">
            <h2 className="heading">Worth reading next</h2>
            <ol>
              {shown.next.map((n) => (
                <li key={n.words} className="row-line">
                  <button
                    type="button"
                    className="grid min-h-10 w-full cursor-pointer grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 py-1.5 text-left hover:bg-shade"
                    onClick={() => void go(n.spot)}
                  >
                    <span className="underline decoration-1 underline-offset-3">{n.words[0]?.toUpperCase() + n.words.slice(1)}</span>
                    <span className="mono text-note">{n.gives}</span>
                  </button>
                </li>
              ))}
            </ol>
          </div>
        )}
        {shown?.enough_text && (
          <p className="mt-2">
            {shown.enough_text}{' '}
            {frame.next && frame.next.spot.stage !== 'measure' && (
              <button type="button" className="link-button font-semibold" onClick={() => frame.next && void go(frame.next.spot)}>
                Go on: {frame.next.text}
              </button>
            )}
          </p>
        )}
        {shown?.fit_text && (
          <p className={shown.fits ? 'quiet' : 'text-copper'} role="status">
            {!shown.fits && <span aria-hidden>△ </span>}
            {shown.fit_text}
          </p>
        )}
        {frame.assumptions.length > 0 && (
          <Popover.Root>
            <Popover.Trigger className="link-button mt-1 self-start">What is assumed for the rest ({frame.assumptions.length})</Popover.Trigger>
            <Popover.Portal>
              <Popover.Content side="top" align="start" className="z-10 w-[460px] max-w-[92vw] border border-ink bg-paper p-4 text-body">
                <ul className="list-disc space-y-1 pl-4">
                  {frame.assumptions.map((a) => (
                    <li key={a}>{a}</li>
                  ))}
                </ul>
                {shown?.lost_text && <p className="quiet mt-2">{shown.lost_text}.</p>}
              </Popover.Content>
            </Popover.Portal>
          </Popover.Root>
        )}
      </section>
    </div>
  );
}

interface ChecksProps {
  rows: readonly Check[];
  onAside: (c: Check) => void;
  onGo: (c: Check) => void;
  /** The reading behind a row; none where the nameplate says it. */
  meterOf: (c: Check) => Wanted | undefined;
  onMeter: (c: Check, instrument: number | null) => void;
}

function Checks({ rows, onAside, onGo, meterOf, onMeter }: ChecksProps) {
  const meters = useInstruments().data ?? [];
  return (
    <table className="w-full text-body">
      <thead className="quiet text-left text-note">
        <tr>
          <th className="font-normal">reading</th>
          <th className="pr-3 text-right font-normal">read</th>
          <th className="pr-3 text-right font-normal">model</th>
          <th className="text-right font-normal">others imply</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((c) => (
          <tr key={c.name} className="row-line align-baseline">
            <td className="py-1">
              {c.label}
              {c.run !== null && <span className="quiet">, {c.where}</span>}
              {meters.length > 0 && meterOf(c)?.text && (
                <select
                  className="quiet ml-2 field-sizing-content max-w-40 cursor-pointer bg-transparent text-note"
                  aria-label={`${c.label}, read with`}
                  value={meterOf(c)?.instrument_id ?? ''}
                  onChange={(e) => onMeter(c, e.target.value ? Number(e.target.value) : null)}
                >
                  <option value="">ordinary meter</option>
                  {meters.map((m) => (
                    <option key={m.id} value={m.id}>
                      {m.name}
                    </option>
                  ))}
                </select>
              )}
              {c.odd && (
                <span className="block text-note text-copper">
                  does not fit the rest: {c.cause}{' '}
                  <button type="button" className="link-button text-ink" onClick={() => onGo(c)}>
                    {c.spot.stage === 'identify' ? 'to the nameplate' : 'read it again'}
                  </button>{' '}
                  {c.spot.stage === 'measure' && (
                    <button type="button" className="link-button text-ink" onClick={() => onAside(c)}>
                      set it aside
                    </button>
                  )}
                </span>
              )}
            </td>
            <td className="mono pr-3 text-right whitespace-nowrap">{c.read}</td>
            <td className={`mono pr-3 text-right whitespace-nowrap ${c.odd ? 'font-bold text-copper' : ''}`}>
              {EXPLAINED.includes(c.name) ? <Why of={`check:${c.name}`}>{c.expected}</Why> : c.expected}
            </td>
            <td className="mono quiet text-right whitespace-nowrap">{c.implied}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
