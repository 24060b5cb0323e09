import { line } from 'd3-shape';
import type { Schemas } from '../../api/client';
import { Hatch } from '../../instruments/Hatch';
import { Plot, Pointer, nearest } from '../../instruments/Plot';

type Shown = Schemas['PhaseShown'];

/** Speed over firing angle: from rest, and where a running fan still holds; the steps stand on it with their bands. */
export function AnglePlot({ shown, selected, onSelect }: { shown: Shown; selected: number; onSelect: (step: number) => void }) {
  const angles = shown.firing_deg;
  const last = shown.latest_kicked_deg ?? 0;
  const starts = shown.latest_start_deg ?? 0;
  return (
    <Plot
      className="min-h-[220px]"
      label={inWords(shown)}
      x={{ domain: [0, 180], name: 'firing angle, °', ticks: [0, 30, 60, 90, 120, 150, 180] }}
      y={{ domain: [0, Math.max(...shown.kicked_rpm, 1) * 1.06], name: 'rpm' }}
    >
      {(inside) => {
        const { x, y, top, bottom } = inside;
        const tall = Math.max(0, bottom - top);
        const draw = (values: readonly number[]) =>
          line<number>()
            .defined((v) => v > 0)
            .x((_, i) => x(angles[i] ?? 0))
            .y(y)([...values]) ?? '';
        const under = inside.pointer === null ? null : nearest(angles, inside.pointer);
        return (
          <>
            <Hatch id="angle-hatch" />
            <rect x={x(last)} y={top} width={Math.max(0, x(180) - x(last))} height={tall} fill="url(#angle-hatch)" opacity={0.6} />
            <rect x={x(0)} y={top} width={Math.max(0, x(shown.least_safe_deg) - x(0))} height={tall} fill="url(#angle-hatch)" opacity={0.35} />
            <path d={draw(shown.kicked_rpm)} fill="none" stroke="var(--color-ink)" strokeWidth={1.4} strokeDasharray="5 4" />
            <path d={draw(shown.speed_rpm)} fill="none" stroke="var(--color-ink)" strokeWidth={2.4} />
            <text className="on-paper axis-mark" x={x(last) + 6} y={top + 14}>
              stands
            </text>
            {last > starts + 1 && (
              <text className="on-paper axis-mark" x={x(starts) - 6} y={bottom - 8} textAnchor="end">
                dashed: only when already turning
              </text>
            )}
            {shown.steps.map((step) => (
              <Stand key={step.step} step={step} on={step.step === selected} x={x} y={y} onSelect={onSelect} />
            ))}
            {under !== null && (
              <Pointer
                at={angles[under] ?? 0}
                inside={inside}
                y={top + 30}
                text={`${(angles[under] ?? 0).toFixed(0)}°: ${said(shown.speed_rpm[under] ?? 0, shown.kicked_rpm[under] ?? 0)}`}
              />
            )}
          </>
        );
      }}
    </Plot>
  );
}

interface StandProps {
  step: Shown['steps'][number];
  on: boolean;
  x: (value: number) => number;
  y: (value: number) => number;
  onSelect: (step: number) => void;
}

function Stand({ step, on, x, y, onSelect }: StandProps) {
  if (step.firing_deg === null || !step.speed) return null;
  const colour = on ? 'var(--color-copper)' : 'var(--color-ink)';
  const at = x(step.firing_deg);
  const { value, low, high } = step.speed;
  return (
    <g className="cursor-pointer" onClick={() => onSelect(step.step)}>
      <line x1={at} x2={at} y1={y(low ?? value)} y2={y(high ?? value)} stroke={colour} strokeWidth={6} opacity={0.45} />
      <circle cx={at} cy={y(value)} r={on ? 6.5 : 5} fill={colour} />
      <text className="on-paper step-mark" x={at + 10} y={y(value) - 8} style={{ fill: colour }}>
        {step.step}
      </text>
    </g>
  );
}

function inWords(shown: Shown): string {
  const steps = shown.steps.map(
    (s) => `Step ${s.step}: ${s.firing_deg === null ? s.reason : `${s.firing_deg.toFixed(0)} degrees, ${s.speed?.number ?? ''} rpm`}`,
  );
  return `Speed over firing angle. ${steps.join('. ')}`;
}

function said(rest: number, kicked: number): string {
  if (rest > 0) return `${rest.toFixed(0)} rpm`;
  return kicked > 0 ? `${kicked.toFixed(0)} rpm, not from rest` : 'stands';
}
