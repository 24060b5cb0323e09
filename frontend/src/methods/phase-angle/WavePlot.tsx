import { line } from 'd3-shape';
import { Slider } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import type { Schemas } from '../../api/client';
import { nearest, Plot, type Inside } from '../../instruments/Plot';

const PAD = { left: 52, right: 54, top: 18, bottom: 36 };

/** Two digits of the wave's largest value; near zero no more. */
const decimals = (values: number[]) => Math.min(6, Math.max(0, 1 - Math.floor(Math.log10(Math.max(1e-6, ...values.map(Math.abs))))));

/** One period at a step: supply, motor volts with the motor's own in the open time, currents; a cursor reads them off. */
export function WavePlot({ wave, over, aside }: { wave: Schemas['Wave']; over?: Schemas['CaptureShown'] | null; aside?: ReactNode }) {
  const [cursor, setCursor] = useState(90);
  const t = wave.theta_deg;
  const volts = Math.max(...wave.supply_v.map(Math.abs), ...wave.motor_v.map(Math.abs), ...(over?.motor_v.map(Math.abs) ?? []), 1) * 1.05;
  const amps = Math.max(...wave.line_a.map(Math.abs), ...wave.main_a.map(Math.abs), 1e-6) * 1.25;
  const at = Math.min(t.length - 1, Math.max(0, Math.round((cursor / 360) * t.length)));
  const read = (values: readonly number[]) => values[at] ?? 0;
  const say = (v: number, places = 0) =>
    (v + 0)
      .toFixed(places)
      .replace('-', '−')
      .replace(/^−(0(\.0*)?)$/, '$1');
  const milli = (v: number) => `${say(1e3 * v)} mA`;
  return (
    <div className="flex h-full min-h-[220px] flex-col">
      <div className="min-h-0 w-full flex-1">
        <Plot
          pad={PAD}
          label={`Waveforms of step ${wave.step}: fires at ${wave.firing_deg.toFixed(0)} degrees, ${wave.facts.join(', ')}`}
          x={{ domain: [0, 360], name: '° from the supply’s zero', ticks: [0, 90, 180, 270, 360] }}
          y={{ domain: [-volts, volts], name: 'V' }}
          right={{ domain: [-amps, amps], name: 'A' }}
          onPointer={(deg) => setCursor(Math.min(360, Math.max(0, deg)))}
        >
          {(inside) => <Curves wave={wave} over={over ?? null} inside={inside} cursor={t[at] ?? 0} />}
        </Plot>
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
          {(t[at] ?? 0).toFixed(0)}° <span className="quiet">supply</span> {say(read(wave.supply_v))} V <strong>motor</strong> {say(read(wave.motor_v))} V{' '}
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
          {wave.torque_nm.length > 0 && <> torque {say(read(wave.torque_nm), decimals(wave.torque_nm))} N·m</>}
        </p>
        {aside}
      </div>
    </div>
  );
}

interface CurvesProps {
  wave: Schemas['Wave'];
  over: Schemas['CaptureShown'] | null;
  inside: Inside;
  /** [°] */
  cursor: number;
}

function Curves({ wave, over, inside, cursor }: CurvesProps) {
  const { x, y, right, bottom } = inside;
  const draw = (values: readonly number[], scale: (v: number) => number, at: readonly number[] = wave.theta_deg) =>
    line<number>()
      .x((_, i) => x(at[i] ?? 0))
      .y(scale)([...values]) ?? '';
  const fires = wave.firing_deg > 0 ? [wave.firing_deg, wave.firing_deg + 180] : [];
  return (
    <>
      <path d={draw(wave.supply_v, y)} fill="none" stroke="var(--color-muted)" strokeWidth={1.2} strokeDasharray="4 4" />
      <path d={draw(wave.motor_v, y)} fill="none" stroke="var(--color-ink)" strokeWidth={2} />
      {wave.auxiliary_a.length > 0 && (
        <>
          <path d={draw(wave.auxiliary_a, right)} fill="none" stroke="var(--color-air)" strokeWidth={1.2} />
          <path d={draw(wave.main_a, right)} fill="none" stroke="var(--color-muted)" strokeWidth={1.2} />
        </>
      )}
      {fires.map((g) => (
        <path key={g} d={`M${x(g)} ${bottom} v-9`} stroke="var(--color-copper)" strokeWidth={4} />
      ))}
      {fires.length > 0 && (
        <text className="on-paper text-note" x={x(wave.firing_deg) + 6} y={bottom - 3} style={{ fill: 'var(--color-copper)' }}>
          gate
        </text>
      )}
      <path d={draw(wave.line_a, right)} fill="none" stroke="var(--color-copper)" strokeWidth={2.2} />
      <Labels wave={wave} x={x} y={y} ya={right} />
      {over && (
        <path
          d={draw(over.motor_v, y, over.theta_deg)}
          fill="none"
          stroke="var(--color-hazard)"
          strokeWidth={2.4}
          strokeDasharray="1.5 3"
          strokeLinecap="round"
        />
      )}
      <line x1={x(cursor)} x2={x(cursor)} y1={inside.top} y2={bottom} stroke="var(--color-copper)" opacity={0.6} />
    </>
  );
}

/** Volts of a capture nearest to an angle. */
function captured(over: Schemas['CaptureShown'], deg: number): string {
  return (over.motor_v[nearest(over.theta_deg, deg)] ?? 0).toFixed(0);
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
