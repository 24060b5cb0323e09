import { scaleLinear } from 'd3-scale';
import { line } from 'd3-shape';
import { useState } from 'react';
import type { Schemas } from '../../api/client';
import { Hatch } from '../../instruments/Hatch';
import { useSize } from '../../ui/useSize';

const PAD = { left: 52, right: 16, top: 20, bottom: 36 };

/** Speed over firing angle: from rest, and where a running fan still holds; the steps stand on it with their bands. */
export function KnobPlot({ shown, selected, onSelect }: { shown: Schemas['PhaseShown']; selected: number; onSelect: (step: number) => void }) {
  const [ref, { width, height }] = useSize();
  const [pointer, setPointer] = useState<number | null>(null);
  const a = shown.firing_deg;
  const top = Math.max(...shown.held_rpm, 1) * 1.06;
  const x = scaleLinear().domain([0, 180]).range([PAD.left, Math.max(PAD.left + 1, width - PAD.right)]);
  const y = scaleLinear().domain([0, top]).range([Math.max(PAD.top + 1, height - PAD.bottom), PAD.top]);
  const draw = (values: readonly number[]) =>
    line<number>().defined((v) => v > 0).x((_, i) => x(a[i] ?? 0)).y((v) => y(v))([...values]) ?? '';
  const under = pointer === null ? null : nearest(a, x.invert(pointer));
  const last = shown.latest_held_deg ?? 0;
  const starts = shown.latest_start_deg ?? 0;
  return (
    <div ref={ref} className="relative h-full min-h-[220px] w-full">
      <svg
        width={width}
        height={height}
        className="absolute inset-0"
        role="img"
        aria-label={`Speed over firing angle. ${shown.steps.map((s) => `Step ${s.step}: ${s.firing_deg === null ? s.reason : `${s.firing_deg.toFixed(0)} degrees, ${s.speed?.number ?? ''} rpm`}`).join('. ')}`}
        onPointerMove={(event) => setPointer(event.clientX - event.currentTarget.getBoundingClientRect().left)}
        onPointerLeave={() => setPointer(null)}
      >
        <Hatch id="knob-hatch" />
        <text x={PAD.left - 8} y={12} textAnchor="end" fontSize={13} opacity={0.8}>
          rpm
        </text>
        <text x={width - PAD.right} y={height - 3} textAnchor="end" fontSize={13} opacity={0.8}>
          firing angle, °
        </text>
        {y.ticks(5).map((v) => (
          <g key={v}>
            <line x1={PAD.left} x2={width - PAD.right} y1={y(v)} y2={y(v)} stroke="var(--color-rule)" />
            <text className="mono" x={PAD.left - 8} y={y(v) + 5} textAnchor="end" fontSize={13}>
              {v}
            </text>
          </g>
        ))}
        {[0, 30, 60, 90, 120, 150, 180].map((v) => (
          <text key={v} className="mono" x={x(v)} y={height - PAD.bottom + 17} textAnchor="middle" fontSize={13}>
            {v}
          </text>
        ))}
        <rect x={x(last)} y={PAD.top} width={Math.max(0, x(180) - x(last))} height={Math.max(0, height - PAD.top - PAD.bottom)} fill="url(#knob-hatch)" opacity={0.6} />
        <rect x={x(0)} y={PAD.top} width={Math.max(0, x(shown.least_safe_deg) - x(0))} height={Math.max(0, height - PAD.top - PAD.bottom)} fill="url(#knob-hatch)" opacity={0.35} />
        <path d={draw(shown.held_rpm)} fill="none" stroke="var(--color-ink)" strokeWidth={1.4} strokeDasharray="5 4" />
        <path d={draw(shown.speed_rpm)} fill="none" stroke="var(--color-ink)" strokeWidth={2.4} />
        <text className="on-paper" x={x(last) + 6} y={PAD.top + 14} fontSize={13}>
          stands
        </text>
        {last > starts + 1 && (
          <text className="on-paper" x={x(starts) - 6} y={height - PAD.bottom - 8} textAnchor="end" fontSize={13}>
            dashed: only when already turning
          </text>
        )}
        {shown.steps.map((s) => {
          if (s.firing_deg === null || !s.speed) return null;
          const on = s.step === selected;
          const colour = on ? 'var(--color-copper)' : 'var(--color-ink)';
          return (
            <g key={s.step} className="cursor-pointer" onClick={() => onSelect(s.step)}>
              <line x1={x(s.firing_deg)} x2={x(s.firing_deg)} y1={y(s.speed.low ?? s.speed.value)} y2={y(s.speed.high ?? s.speed.value)} stroke={colour} strokeWidth={6} opacity={0.45} />
              <circle cx={x(s.firing_deg)} cy={y(s.speed.value)} r={on ? 6.5 : 5} fill={colour} />
              <text className="on-paper" x={x(s.firing_deg) + 10} y={y(s.speed.value) - 8} fontSize={14} fontWeight={700} style={{ fill: colour }}>
                {s.step}
              </text>
            </g>
          );
        })}
        {under !== null && (
          <g pointerEvents="none">
            <line x1={x(a[under] ?? 0)} x2={x(a[under] ?? 0)} y1={PAD.top} y2={height - PAD.bottom} stroke="var(--color-muted)" />
            <text className="mono on-paper" x={Math.min(x(a[under] ?? 0) + 8, width - 190)} y={PAD.top + 30} fontSize={13}>
              {`${(a[under] ?? 0).toFixed(0)}°: ${said(shown.speed_rpm[under] ?? 0, shown.held_rpm[under] ?? 0)}`}
            </text>
          </g>
        )}
      </svg>
    </div>
  );
}

function said(rest: number, held: number): string {
  if (rest > 0) return `${rest.toFixed(0)} rpm`;
  return held > 0 ? `${held.toFixed(0)} rpm, not from rest` : 'stands';
}

function nearest(values: readonly number[], at: number): number {
  let best = 0;
  values.forEach((v, i) => {
    if (Math.abs(v - at) < Math.abs((values[best] ?? 0) - at)) best = i;
  });
  return best;
}
