import { scaleLinear } from 'd3-scale';
import { line } from 'd3-shape';
import { Slider } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import type { Schemas } from '../../api/client';
import { useSize } from '../../ui/useSize';

const PAD = { left: 52, right: 54, top: 18, bottom: 32 };

/** One period at a step: supply, motor volts with the motor's own in the open time, currents; a cursor reads them off. */
export function WavePlot({ wave, over, aside }: { wave: Schemas['Wave']; over?: Schemas['CaptureShown'] | null; aside?: ReactNode }) {
  const [ref, { width, height }] = useSize();
  const [cursor, setCursor] = useState(90);
  const t = wave.theta_deg;
  const volts = Math.max(...wave.supply_v.map(Math.abs), ...wave.motor_v.map(Math.abs), ...(over?.motor_v.map(Math.abs) ?? []), 1) * 1.05;
  const amps = Math.max(...wave.line_a.map(Math.abs), ...wave.main_a.map(Math.abs), 1e-6) * 1.25;
  const x = scaleLinear()
    .domain([0, 360])
    .range([PAD.left, Math.max(PAD.left + 1, width - PAD.right)]);
  const y = scaleLinear()
    .domain([-volts, volts])
    .range([Math.max(PAD.top + 1, height - PAD.bottom), PAD.top]);
  const ya = scaleLinear()
    .domain([-amps, amps])
    .range([Math.max(PAD.top + 1, height - PAD.bottom), PAD.top]);
  const draw = (values: readonly number[], scale: (v: number) => number) =>
    line<number>()
      .x((_, i) => x(t[i] ?? 0))
      .y((v) => scale(v))([...values]) ?? '';
  const at = Math.min(t.length - 1, Math.max(0, Math.round((cursor / 360) * t.length)));
  const read = (values: readonly number[]) => values[at] ?? 0;
  const milli = (v: number) => `${(1e3 * v).toFixed(0)} mA`;
  return (
    <div className="flex h-full min-h-[220px] flex-col">
      <div ref={ref} className="relative min-h-0 w-full flex-1">
        <svg
          width={width}
          height={height}
          className="absolute inset-0"
          role="img"
          aria-label={`Waveforms of step ${wave.step}: fires at ${wave.firing_deg.toFixed(0)} degrees, ${wave.facts.join(', ')}`}
          onPointerMove={(event) => setCursor(Math.min(360, Math.max(0, x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left))))}
        >
          <text className="text-note" x={PAD.left - 8} y={12} textAnchor="end" opacity={0.8}>
            V
          </text>
          <text className="text-note" x={width - PAD.right + 8} y={12} opacity={0.8}>
            A
          </text>
          <text className="text-note" x={width - PAD.right} y={height - 2} textAnchor="end" opacity={0.8}>
            ° from the supply&rsquo;s zero
          </text>
          {y.ticks(5).map((v) => (
            <g key={v}>
              <line x1={PAD.left} x2={width - PAD.right} y1={y(v)} y2={y(v)} stroke="var(--color-rule)" />
              <text className="mono text-note" x={PAD.left - 8} y={y(v) + 5} textAnchor="end">
                {v}
              </text>
            </g>
          ))}
          {ya.ticks(5).map((v) => (
            <text key={v} className="mono text-note" x={width - PAD.right + 8} y={ya(v) + 5}>
              {v}
            </text>
          ))}
          {[0, 90, 180, 270, 360].map((v) => (
            <text key={v} className="mono text-note" x={x(v)} y={height - PAD.bottom + 16} textAnchor="middle">
              {v}
            </text>
          ))}
          <path d={draw(wave.supply_v, y)} fill="none" stroke="var(--color-muted)" strokeWidth={1.2} strokeDasharray="4 4" />
          <path d={draw(wave.motor_v, y)} fill="none" stroke="var(--color-ink)" strokeWidth={2} />
          {wave.auxiliary_a.length > 0 && <path d={draw(wave.auxiliary_a, ya)} fill="none" stroke="var(--color-air)" strokeWidth={1.2} />}
          {wave.auxiliary_a.length > 0 && <path d={draw(wave.main_a, ya)} fill="none" stroke="var(--color-muted)" strokeWidth={1.2} />}
          {wave.firing_deg > 0 &&
            [wave.firing_deg, wave.firing_deg + 180].map((g) => (
              <path key={g} d={`M${x(g)} ${height - PAD.bottom} v-9`} stroke="var(--color-copper)" strokeWidth={4} />
            ))}
          {wave.firing_deg > 0 && (
            <text className="on-paper text-note" x={x(wave.firing_deg) + 6} y={height - PAD.bottom - 3} style={{ fill: 'var(--color-copper)' }}>
              gate
            </text>
          )}
          <path d={draw(wave.line_a, ya)} fill="none" stroke="var(--color-copper)" strokeWidth={2.2} />
          <Labels wave={wave} x={x} y={y} ya={ya} />
          {over && (
            <path
              d={
                line<number>()
                  .x((_, i) => x(over.theta_deg[i] ?? 0))
                  .y((v) => y(v))([...over.motor_v]) ?? ''
              }
              fill="none"
              stroke="var(--color-hazard)"
              strokeWidth={2.4}
              strokeDasharray="1.5 3"
              strokeLinecap="round"
            />
          )}
          <line x1={x(t[at] ?? 0)} x2={x(t[at] ?? 0)} y1={PAD.top} y2={height - PAD.bottom} stroke="var(--color-copper)" opacity={0.6} />
        </svg>
      </div>
      <Slider.Root
        className="relative flex h-6 touch-none items-center select-none"
        style={{ marginLeft: PAD.left, marginRight: PAD.right }}
        min={0}
        max={359}
        step={1}
        value={[Math.round(cursor)]}
        onValueChange={([v]) => setCursor(v ?? 0)}
        aria-label="cursor"
      >
        <Slider.Track className="relative h-px grow bg-rule">
          <Slider.Range className="absolute h-full" />
        </Slider.Track>
        <Slider.Thumb className="block size-5 rounded-full border-2 border-copper bg-paper" aria-label="cursor, degrees" />
      </Slider.Root>
      <div className="flex items-start justify-between gap-3">
        <p className="mono pt-1.5 text-note" aria-live="polite">
          {(t[at] ?? 0).toFixed(0)}° <span className="quiet">supply</span> {read(wave.supply_v).toFixed(0)} V <strong>motor</strong>{' '}
          {read(wave.motor_v).toFixed(0)} V{' '}
          {over && (
            <>
              {'· captured '}
              {captured(over, t[at] ?? 0)} V{' · '}
            </>
          )}
          <span className="text-copper">line</span> {milli(read(wave.line_a))}
          {wave.auxiliary_a.length > 0 && (
            <>
              {' '}
              <span className="quiet">main</span> {milli(read(wave.main_a))} <span className="text-air">auxiliary</span> {milli(read(wave.auxiliary_a))}
            </>
          )}
          {wave.torque_nm.length > 0 && <> torque {read(wave.torque_nm).toPrecision(2)} N·m</>}
        </p>
        {aside}
      </div>
    </div>
  );
}

/** Volts of a capture nearest to an angle. */
function captured(over: Schemas['CaptureShown'], deg: number): string {
  let best = 0;
  over.theta_deg.forEach((d, i) => {
    if (Math.abs(d - deg) < Math.abs((over.theta_deg[best] ?? 0) - deg)) best = i;
  });
  return (over.motor_v[best] ?? 0).toFixed(0);
}

/** What each curve is, written on it where there is room. */
function Labels({ wave, x, y, ya }: { wave: Schemas['Wave']; x: (v: number) => number; y: (v: number) => number; ya: (v: number) => number }) {
  const step = 360 / wave.theta_deg.length;
  const at = (values: readonly number[], deg: number) => values[Math.round(((deg + 360) % 360) / step) % values.length] ?? 0;
  const open = [wave.extinction_deg - 180, wave.firing_deg] as const;
  const middle = (open[0] + open[1]) / 2;
  const crest = wave.theta_deg.reduce((best, t) => (at(wave.line_a, t) > at(wave.line_a, best) ? t : best), 0);
  const wide = open[1] - open[0] > 40;
  const text = 'on-paper pointer-events-none';
  return (
    <g className="text-note">
      {wide && (
        <>
          <text className={text} x={x(middle)} y={y(at(wave.supply_v, middle)) - 5} textAnchor="middle" opacity={0.8}>
            mains
          </text>
          <text className={text} x={x(middle)} y={y(at(wave.motor_v, middle)) + (at(wave.motor_v, middle) < 0 ? 16 : -6)} textAnchor="middle">
            motor
          </text>
        </>
      )}
      <text className={text} x={x(crest) + 6} y={ya(at(wave.line_a, crest)) - 5} style={{ fill: 'var(--color-copper)' }}>
        line
      </text>
    </g>
  );
}
