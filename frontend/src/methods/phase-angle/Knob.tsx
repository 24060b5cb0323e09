import { scaleLinear } from 'd3-scale';
import { line } from 'd3-shape';
import { useState } from 'react';
import { problemOf, type JobPageData, type Schemas } from '../../api/client';
import { useSize } from '../../ui/useSize';
import { ValueField } from '../../ui/ValueField';
import { useKnob, useProposals, type KnobAsked } from './api';
import type { Control } from './query';

type Taper = NonNullable<KnobAsked['taper']>;

const START = { least: '3k3', knob: '470k', across: '', capacitor: '100n', breakover: '32V', breakback: '10V', second_ohm: '', second_f: '' };
type Field = keyof typeof START;
const FIELDS: readonly [Field, string, string][] = [
  ['knob', 'knob', '470k'],
  ['least', 'in series, least', '3k3'],
  ['across', 'across the knob', 'none'],
  ['capacitor', 'capacitor', '100n'],
  ['second_ohm', 'second resistor', 'none'],
  ['second_f', 'second capacitor', 'none'],
  ['breakover', 'diac break-over', '32V'],
  ['breakback', 'diac break-back', '10V'],
];
/** What the core calls a field, where that is not its name here. */
const CORE: Partial<Record<Field, string>> = {
  least: 'least_ohm',
  knob: 'knob_ohm',
  across: 'across_ohm',
  capacitor: 'capacitance_f',
  breakover: 'breakover_v',
  breakback: 'breakback_v',
};

/** The diac network of a knob: typed part by part, answered at once. */
export function Knob({ page, asked: control, change }: { page: JobPageData; asked: Control; change: (part: Partial<Control>) => void }) {
  const [finding, setFinding] = useState(false);
  const { taper: typed, ...rest } = control.network ?? {};
  const taper: Taper = typed ?? 'linear';
  const parts = { ...START, ...rest };
  const setParts = (network: typeof START) => change({ network: { ...network, taper }, ...(control.fired_by === 'knob' ? {} : { fired_by: 'knob' }) });
  const setTaper = (to: Taper) => change({ network: { ...parts, taper: to } });
  const asked: KnobAsked = { ...parts, taper, kick: control.kick ?? false };
  const found = useKnob(page, asked);
  const proposals = useProposals(page, finding);
  const problem = found.error ? problemOf(found.error) : null;
  const query = new URLSearchParams({ ...parts, taper }).toString();
  const k = found.data;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)] gap-6 max-[1100px]:grid-cols-1">
      <div>
        <div className="grid grid-cols-4 items-end gap-x-4">
          {FIELDS.map(([key, label, hint]) => (
            <div key={key} className={problem && (problem.field === key || problem.field === CORE[key]) ? 'bg-shade' : ''}>
              <ValueField
                label={label}
                text={parts[key]}
                hint={hint}
                onCommit={(text) => {
                  setParts({ ...parts, [key]: text });
                  return Promise.resolve(null);
                }}
              />
            </div>
          ))}
        </div>
        {problem && (
          <p role="alert" className="text-note text-copper">
            {problem.detail}
            {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
          </p>
        )}
        <div className="mt-1 flex flex-wrap items-end gap-5">
          <label className="block w-36">
            <span className="quiet block text-note">track</span>
            <select className="input" value={taper} onChange={(e) => setTaper(e.target.value as Taper)}>
              <option value="linear">linear</option>
              <option value="log">log</option>
              <option value="reverse-log">reverse log</option>
            </select>
          </label>
          <button type="button" className="link-button" onClick={() => setFinding(true)}>
            find usual values
          </button>
          <a className="link-button inline-flex items-center" href={`/api/jobs/${page.job.id}/knob-scale.svg?${query}`} target="_blank" rel="noreferrer">
            scale to print
          </a>
        </div>
        {finding && (
          <ul className="mt-1 text-body" aria-label="Usual values">
            {proposals.isFetching && <li className="quiet">Looking…</li>}
            {proposals.error && <li className="text-copper">{problemOf(proposals.error).detail}</li>}
            {proposals.data?.map((p) => (
              <li key={`${p.knob} ${p.capacitor} ${p.least} ${p.across}`} className="row-line grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3">
                <span>
                  {p.knob} knob, {p.least} in series, {p.capacitor}
                  {p.across && `, ${p.across} across`}; <span className="mono">{p.text}</span>
                </span>
                <button
                  type="button"
                  className="link-button"
                  onClick={() => setParts({ ...parts, knob: p.knob, least: p.least, capacitor: p.capacitor, across: p.across, second_ohm: '', second_f: '' })}
                >
                  take
                </button>
              </li>
            ))}
          </ul>
        )}
      </div>
      <div aria-live="polite">
        {k ? (
          <>
            <TurnPlot knob={k} pending={found.isFetching} />
            <p className="text-body">
              <strong className="font-semibold">{k.range_text}.</strong> {k.snap_text[0]?.toUpperCase() + k.snap_text.slice(1)}.
            </p>
            {k.cures.length > 0 && (
              <ul className="text-body" aria-label="Cures">
                {k.cures.map((c) => (
                  <li key={c} className="row-line py-0.5">
                    {c}
                  </li>
                ))}
              </ul>
            )}
            <p className="quiet text-note">
              With {k.tolerance_text}: {k.tolerance.join('; ')}. {k.note[0]?.toUpperCase() + k.note.slice(1)}.
            </p>
          </>
        ) : (
          !problem && <p className="quiet">Stepping half-cycle by half-cycle…</p>
        )}
      </div>
    </div>
  );
}

const PAD = { left: 46, right: 12, top: 16, bottom: 36 };

/** Speed over the knob's turn: turned back from full, and turned up from off. */
function TurnPlot({ knob: k, pending }: { knob: Schemas['KnobShown']; pending: boolean }) {
  const [ref, { width }] = useSize();
  const height = 150;
  const top = Math.max(...k.down_rpm, 1) * 1.08;
  const x = scaleLinear()
    .domain([0, 1])
    .range([PAD.left, Math.max(PAD.left + 1, width - PAD.right)]);
  const y = scaleLinear()
    .domain([0, top])
    .range([height - PAD.bottom, PAD.top]);
  const draw = (values: readonly number[]) =>
    line<number>()
      .defined((v) => v > 0)
      .x((_, i) => x(k.turn[i] ?? 0))
      .y((v) => y(v))([...values]) ?? '';
  return (
    <div ref={ref} className={`w-full ${pending ? 'opacity-60' : ''}`}>
      <svg width={width} height={height} role="img" aria-label={`Speed over the knob: ${k.range_text}; ${k.snap_text}`}>
        <text className="text-note" x={PAD.left - 8} y={11} textAnchor="end" opacity={0.8}>
          rpm
        </text>
        {y.ticks(4).map((v) => (
          <g key={v}>
            <line x1={PAD.left} x2={width - PAD.right} y1={y(v)} y2={y(v)} stroke="var(--color-rule)" />
            <text className="mono text-note" x={PAD.left - 8} y={y(v) + 5} textAnchor="end">
              {v}
            </text>
          </g>
        ))}
        {[0, 0.25, 0.5, 0.75, 1].map((v) => (
          <text key={v} className="mono text-note" x={x(v)} y={height - PAD.bottom + 16} textAnchor={v === 1 ? 'end' : 'middle'}>
            {100 * v}
          </text>
        ))}
        <text className="text-note" x={width - PAD.right} y={height - 1} textAnchor="end" opacity={0.8}>
          % of the knob&rsquo;s turn
        </text>
        <path d={draw(k.down_rpm)} fill="none" stroke="var(--color-ink)" strokeWidth={1.4} strokeDasharray="5 4" />
        <path d={draw(k.up_rpm)} fill="none" stroke="var(--color-copper)" strokeWidth={2.4} />
        <text className="on-paper text-note" x={x(0.02)} y={PAD.top + 12}>
          <tspan style={{ fill: 'var(--color-copper)' }}>turned up</tspan>, dashed: turned back
        </text>
      </svg>
    </div>
  );
}
