import { scaleLinear } from 'd3-scale';
import { area, line } from 'd3-shape';
import { useState } from 'react';
import type { Schemas } from '../../api/client';
import { useSize } from '../../ui/useSize';

const PAD = { left: 52, right: 66, top: 20, bottom: 34 };

/** Motor torque at every step and the fan's torque over speed, with their bands; they meet where the fan runs. */
export function TorquePlot({ plot, selected, onSelect }: { plot: Schemas['TorquePlot']; selected: number; onSelect: (step: number) => void }) {
  const [ref, { width, height }] = useSize();
  const [pointer, setPointer] = useState<number | null>(null);
  const n = plot.speed_rpm;
  const last = n[n.length - 1] ?? 1;
  const shown = plot.motors.filter((m) => m.step === 0 || m.step === selected || plot.motors.length < 6);
  // The fan sets the height: what the motor could give far above it tells nothing here.
  const fan = Math.max(...plot.points.map((p) => p.torque_nm), 1e-6);
  const top = Math.min(Math.max(...shown.flatMap((m) => [...m.high_nm])), 2.2 * fan);
  const x = scaleLinear()
    .domain([0, last])
    .range([PAD.left, Math.max(PAD.left + 1, width - PAD.right)]);
  const y = scaleLinear()
    .domain([0, top])
    .range([Math.max(PAD.top + 1, height - PAD.bottom), PAD.top])
    .clamp(true);
  const draw = line<number>()
    .x((_, i) => x(n[i] ?? 0))
    .y((v) => y(v));
  const band = (c: Schemas['Curve']) =>
    area<number>()
      .x((_, i) => x(n[i] ?? 0))
      .y0((_, i) => y(c.low_nm[i] ?? 0))
      .y1((_, i) => y(c.high_nm[i] ?? 0))([...c.torque_nm]) ?? '';
  const under = pointer === null ? null : nearest(n, x.invert(pointer));
  const active = plot.motors.find((m) => m.step === selected) ?? plot.motors[0];
  return (
    <div ref={ref} className="relative h-full min-h-[240px] w-full">
      <svg
        width={width}
        height={height}
        className="absolute inset-0"
        role="img"
        aria-label={`Torque over speed. ${plot.points.map((p) => `${p.label}: ${p.text}, ${p.torque_nm.toPrecision(3)} newton metres`).join('. ')}`}
        onPointerMove={(event) => setPointer(event.clientX - event.currentTarget.getBoundingClientRect().left)}
        onPointerLeave={() => setPointer(null)}
      >
        <text className="text-note" x={PAD.left - 8} y={12} textAnchor="end" opacity={0.8}>
          N·m
        </text>
        <text className="text-note" x={width - PAD.right} y={height - 2} textAnchor="end" opacity={0.8}>
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
        {x.ticks(6).map((v) => (
          <text key={v} className="mono text-note" x={x(v)} y={height - PAD.bottom + 17} textAnchor="middle">
            {v}
          </text>
        ))}
        <path d={band(plot.load)} fill="var(--color-air)" opacity={0.2} />
        <path d={draw([...plot.load.torque_nm]) ?? ''} fill="none" stroke="var(--color-air)" strokeWidth={2.2} />
        {shown.map((m) => {
          const on = m.step === selected;
          return (
            <g key={m.label} onClick={() => m.step !== null && m.step !== undefined && m.step > 0 && onSelect(m.step)}>
              {(on || m.step === 0) && <path d={band(m)} fill="var(--color-flow)" opacity={on ? 0.35 : 0.18} />}
              <path d={draw([...m.torque_nm]) ?? ''} fill="none" stroke={on ? 'var(--color-copper)' : 'var(--color-ink)'} strokeWidth={on ? 2.4 : 1.3} />
            </g>
          );
        })}
        <text className="on-paper text-note" x={x(last) + 6} y={y(plot.load.torque_nm[n.length - 1] ?? 0) + 4} style={{ fill: 'var(--color-air)' }}>
          fan
        </text>
        {shown.map((m) => {
          // Each curve is named where it leaves the plot at rest, or at its height there.
          const at = m.torque_nm[0] ?? 0;
          return (
            <text
              key={m.label}
              className="on-paper text-note"
              x={PAD.left + 6}
              y={y(at) - 5}
              fontWeight={m.step === selected ? 700 : 400}
              style={{ fill: m.step === selected ? 'var(--color-copper)' : 'var(--color-ink)' }}
            >
              {m.label}
            </text>
          );
        })}
        {plot.points
          .filter((p) => shown.some((m) => m.step === p.step))
          .map((p) => (
            <g key={p.label}>
              <line
                x1={x(p.low_rpm)}
                x2={x(p.high_rpm)}
                y1={y(p.torque_nm)}
                y2={y(p.torque_nm)}
                stroke={p.step === selected ? 'var(--color-copper)' : 'var(--color-ink)'}
                strokeWidth={5}
                opacity={0.5}
              />
              <circle
                cx={x(p.speed_rpm)}
                cy={y(p.torque_nm)}
                r={p.step === selected ? 6 : 4.5}
                fill={p.step === selected ? 'var(--color-copper)' : 'var(--color-ink)'}
              />
            </g>
          ))}
        {under !== null && active && (
          <g pointerEvents="none">
            <line x1={x(n[under] ?? 0)} x2={x(n[under] ?? 0)} y1={PAD.top} y2={height - PAD.bottom} stroke="var(--color-muted)" />
            <text className="mono on-paper text-note" x={Math.min(x(n[under] ?? 0) + 8, width - 250)} y={PAD.top + 12}>
              {`${Math.round(n[under] ?? 0)} rpm: ${active.label} ${(active.torque_nm[under] ?? 0).toPrecision(2)}, fan ${(plot.load.torque_nm[under] ?? 0).toPrecision(2)} N·m`}
            </text>
          </g>
        )}
      </svg>
    </div>
  );
}

function nearest(values: readonly number[], at: number): number {
  let best = 0;
  values.forEach((v, i) => {
    if (Math.abs(v - at) < Math.abs((values[best] ?? 0) - at)) best = i;
  });
  return best;
}
