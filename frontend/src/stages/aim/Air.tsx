import { line } from 'd3-shape';
import { type ReactNode } from 'react';
import { answer, api, problemOf } from '../../api/client';
import { Hatch } from '../../instruments/Hatch';
import { Plot } from '../../instruments/Plot';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { FromFile } from '../../ui/FromFile';
import { ValueField } from '../../ui/ValueField';
import { useAir, useSaveAir, type AirShown, type AirTyped, type SaveAir } from './api';

type Name = keyof AirTyped;

const GROUPS: readonly [heading: string, fields: readonly (readonly [Name, string, string])[]][] = [
  [
    'The system',
    [
      ['system_flow_m3_s', 'flow at one working point', '70 m³/h'],
      ['system_pressure_pa', 'pressure at that flow', '300 Pa'],
      ['fixed_pressure_pa', 'of it without any flow', '0 Pa'],
    ],
  ],
  [
    'At full speed',
    [
      ['full_flow_m3_s', 'flow, as read', '90 m³/h'],
      ['full_level_db', 'level, as read', '48 dB'],
      ['heat_w', 'what warms the air', '9.4 kW'],
      ['least_flow_m3_s', 'safety asks for at least', '270 m³/h'],
      ['rise_low_k', 'plate: rise from', '15 K'],
      ['rise_high_k', 'plate: rise to', '35 K'],
      ['level_at_m', 'heard from', '1 m'],
      ['level_fans', 'of so many fans', 'all'],
    ],
  ],
  [
    'The place',
    [
      ['altitude_m', 'altitude', '820 m'],
      ['inlet_c', 'air at the inlet', '20 °C'],
      ['humidity', 'its humidity', '50 %'],
    ],
  ],
  [
    'Tones',
    [
      ['blades', 'blades', '7'],
      ['motor_poles', 'poles of its motor', '4'],
      ['resonances_hz', 'resonances to avoid', '84, 120 Hz'],
    ],
  ],
];
const OF_CURVE: readonly (readonly [Name, string, string])[] = [
  ['curve_rpm', 'taken at', '2800 rpm'],
  ['curve_density_kg_m3', 'in air of', '1.2 kg/m³'],
  ['parallel', 'fans side by side', '1'],
  ['series', 'fans one behind the other', '1'],
];

/** What fan, system and place are, and what flows at every step. */
export function Air() {
  const { page, selected, onSelect } = useJobInHand();
  const air = useAir(page);
  const save = useSaveAir();
  if (air.isError) return <Refusal problem={problemOf(air.error)} />;
  if (!air.data) return <p className="quiet">Reckoning the air…</p>;
  const { typed, shown } = air.data;
  return (
    <div className="grid grid-cols-[400px_minmax(0,1fr)] gap-x-8 max-[1000px]:grid-cols-1">
      <div className="space-y-1">
        <Curve typed={typed} save={save} />
        {GROUPS.map(([heading, fields]) => (
          <section key={heading} aria-label={heading}>
            <h3 className="heading text-body">{heading}</h3>
            <div className="grid grid-cols-3 gap-x-4">
              {fields.map(([name, label, hint]) => (
                <Field key={name} name={name} label={label} hint={hint} typed={typed} save={save} />
              ))}
            </div>
          </section>
        ))}
      </div>
      <div className="min-w-0">
        {shown.missing && <p className="quiet">Air is told once more is known: {shown.missing}.</p>}
        {shown.refused && (
          <p role="alert" className="text-copper">
            {shown.refused}
          </p>
        )}
        {shown.lines.length > 0 && (
          <div className="h-[300px]">
            <FanPlot shown={shown} selected={selected} />
          </div>
        )}
        <Rows shown={shown} selected={selected} onSelect={onSelect} />
        <Left left={shown.left} />
        <p className="quiet pt-1 text-note">
          air of {shown.density_text}
          {shown.exponent_text && `; ${shown.exponent_text}`}
        </p>
        {shown.warnings?.map((w) => (
          <p key={w} className="text-note text-copper first-letter:uppercase">
            {w}.
          </p>
        ))}
        {shown.unknown.map((u) => (
          <p key={u} className="quiet text-note first-letter:uppercase">
            {u}.
          </p>
        ))}
      </div>
    </div>
  );
}

interface FieldProps {
  name: Name;
  label: string;
  hint: string;
  typed: AirTyped;
  save: SaveAir;
}

const Field = ({ name, label, hint, typed, save }: FieldProps) => (
  <ValueField inputId={`air-${name}`} label={label} text={typed[name] ?? ''} hint={hint} onCommit={(text) => save({ [name]: text }, `${label} ${text}`)} />
);

function Curve({ typed, save }: { typed: AirTyped; save: SaveAir }) {
  const { page } = useJobInHand();
  const take = async (text: string, name: string) => {
    const read = await answer(
      api.POST('/api/jobs/{job_id}/air/import', {
        params: { path: { job_id: page.job.id } },
        body: text,
        bodySerializer: (body: string) => body,
        headers: { 'Content-Type': 'text/csv' },
      }),
    );
    return save({ curve: read.curve ?? '' }, `a curve from ${name}`);
  };
  return (
    <section aria-label="The fan's curve">
      <FromFile heading="The fan’s curve" label="fan curve file" take={take} />
      <ValueField
        inputId="air-curve"
        label="flow, pressure, shaft power: one point a line, from no flow"
        text={typed.curve ?? ''}
        hint={'0; 430; 45\n216; 424; 70\n…'}
        lines={5}
        onCommit={(curve) => save({ curve }, 'the fan’s curve')}
      />
      <div className="grid grid-cols-2 gap-x-4">
        {OF_CURVE.map(([name, label, hint]) => (
          <Field key={name} name={name} label={label} hint={hint} typed={typed} save={save} />
        ))}
      </div>
    </section>
  );
}

/** Fan at every step over the system's curve; a filled ring where it settles, hatched where it stalls. */
function FanPlot({ shown, selected }: { shown: AirShown; selected: number }) {
  const most = Math.max(...shown.lines.map((l) => l.flows_m3_h[l.flows_m3_h.length - 1] ?? 0));
  const top = Math.max(...shown.lines.flatMap((l) => l.pressures_pa), 1);
  const said = shown.points.filter((p) => p.reached).map((p) => `${p.step === null ? 'full speed' : `step ${p.step}`}: ${Math.round(p.flow_m3_h)} m³/h`);
  return (
    <Plot
      x={{ domain: [0, most * 1.04], name: 'm³/h' }}
      y={{ domain: [0, top * 1.08], name: 'Pa' }}
      pad={{ left: 60 }}
      label={`Fan and system: ${said.join(', ')}`}
    >
      {(inside) => {
        const path = (flows: readonly number[], pressures: readonly number[]) =>
          line<number>()
            .x((_, i) => inside.x(flows[i] ?? 0))
            .y((p) => inside.y(p))([...pressures]) ?? '';
        const system = shown.system_m3_h.map((f, i) => [f, shown.system_pa[i] ?? 0] as const).filter(([, p]) => p <= top * 1.08);
        return (
          <>
            <Hatch id="air-stall" />
            {shown.stall_m3_h > 0 && (
              <g>
                <rect
                  x={inside.left}
                  y={inside.top}
                  width={inside.x(shown.stall_m3_h) - inside.left}
                  height={inside.bottom - inside.top}
                  fill="url(#air-stall)"
                  opacity={0.6}
                />
                <text
                  className="on-paper text-note"
                  textAnchor="end"
                  x={inside.x(shown.stall_m3_h) - 6}
                  y={inside.bottom - 8}
                  style={{ fill: 'var(--color-caution)' }}
                >
                  stalls at full speed
                </text>
              </g>
            )}
            <path
              d={path(
                system.map(([f]) => f),
                system.map(([, p]) => p),
              )}
              fill="none"
              stroke="var(--color-ink)"
              strokeWidth={2}
              strokeDasharray="6 4"
            />
            {shown.lines.map((l) => {
              const here = l.step === selected;
              const colour = here ? 'var(--color-copper)' : l.step === null ? 'var(--color-ink)' : 'var(--color-air)';
              const end = l.pressures_pa[0] ?? 0;
              return (
                <g key={l.step ?? 'full'}>
                  <path d={path(l.flows_m3_h, l.pressures_pa)} fill="none" stroke={colour} strokeWidth={here ? 2.6 : 1.8} />
                  <text className="on-paper axis-mark" x={inside.left + 6} y={inside.y(end) + (l.step === null ? -5 : 14)} style={{ fill: colour }}>
                    {l.step === null ? `full speed, ${Math.round(l.speed_rpm)} rpm` : l.step}
                  </text>
                </g>
              );
            })}
            {shown.points.map((p, i) => (
              <circle
                key={i}
                cx={inside.x(p.flow_m3_h)}
                cy={inside.y(p.pressure_pa)}
                r={p.reached ? 5 : 4}
                fill={p.reached ? (p.stalled ? 'var(--color-hazard)' : 'var(--color-ink)') : 'var(--color-paper)'}
                stroke={p.stable ? 'var(--color-ink)' : 'var(--color-muted)'}
                strokeWidth={1.6}
              />
            ))}
            {system.length > 2 && (
              <text
                className="on-paper axis-mark"
                x={inside.x(system[system.length - 1]?.[0] ?? 0) - 8}
                y={inside.y(system[system.length - 1]?.[1] ?? 0) + 14}
                textAnchor="end"
              >
                system
              </text>
            )}
          </>
        );
      }}
    </Plot>
  );
}

/** What is left of the air where some fans stand. */
function Left({ left }: { left: AirShown['left'] }) {
  if (left.length === 0) return null;
  return (
    <table className="mt-3 w-full text-body" aria-label="When fans stand">
      <thead className="quiet text-left text-note">
        <tr>
          <th className="font-normal">when fans stand, the others at full speed</th>
          <th className="pr-3 font-normal">air left</th>
          <th className="pr-3 font-normal">of all</th>
          <th className="pr-3 font-normal">back through each</th>
        </tr>
      </thead>
      <tbody>
        {left.map((row) => (
          <tr key={row.text} className="row-line">
            <th scope="row" className="py-0.5 pr-3 text-left font-normal">
              {row.text}
            </th>
            <td className="mono pr-3 whitespace-nowrap">{row.flow_text}</td>
            <td className="mono pr-3 whitespace-nowrap">{row.share_text}</td>
            <td className="mono pr-3 whitespace-nowrap">{row.back_text || 'none: shutters'}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const COLUMNS: readonly [keyof AirShown['rows'][number], string][] = [
  ['speed_text', 'speed'],
  ['flow_text', 'flow'],
  ['pressure_text', 'pressure'],
  ['level_text', 'level'],
  ['rise_text', 'rise'],
  ['shaft_text', 'shaft'],
  ['law_text', 'plain fan law says'],
];

function Rows({ shown, selected, onSelect }: { shown: AirShown; selected: number; onSelect: (step: number) => void }) {
  const used = COLUMNS.filter(([key]) => shown.rows.some((r) => r[key]));
  if (shown.rows.length === 0) return null;
  const cell = (text: ReactNode, key: string) => (
    <td key={key} className="py-0.5 pr-3 whitespace-nowrap">
      {text}
    </td>
  );
  return (
    <table className="mt-2 w-full text-body" aria-label="Air at each step">
      <thead className="quiet text-left text-note">
        <tr>
          <th className="w-14 font-normal">step</th>
          {used.map(([key, name]) => (
            <th key={key} className="pr-3 font-normal">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody className="mono">
        {shown.rows.map((r) => (
          <tr
            key={r.step ?? 'full'}
            className={`row-line ${r.step === selected ? 'bg-shade/60' : ''}`}
            onClick={() => {
              if (r.step !== null) onSelect(r.step);
            }}
          >
            <td className="font-sans font-bold">{r.step ?? 'full'}</td>
            {used.map(([key]) => cell(r[key], key))}
          </tr>
        ))}
        {shown.rows
          .filter((r) => r.note)
          .map((r) => (
            <tr key={`note ${r.step ?? 'full'}`}>
              <td colSpan={used.length + 1} className="font-sans text-note text-caution">
                △ {r.step === null ? 'full speed' : `step ${r.step}`}: {r.note}
              </td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}
