import type { Schemas } from '../../api/client';

const W = 396;
const H = 116;
const LEFT = 40;
const BOTTOM = 24;

/** Two periods of a captured lead between the levels that were found. */
export function LeadPicture({ shown }: { shown: Schemas['LeadShown'] }) {
  const last = shown.time_us[shown.time_us.length - 1] ?? 1;
  const top = Math.max(shown.high_v, ...shown.lead_v);
  const foot = Math.min(0, shown.low_v, ...shown.lead_v);
  const x = (t: number) => LEFT + (t / last) * (W - LEFT - 4);
  const y = (v: number) => 8 + ((top - v) / (top - foot || 1)) * (H - BOTTOM - 12);
  const d = shown.lead_v.map((v, i) => `${i === 0 ? 'M' : 'L'}${x(shown.time_us[i] ?? 0).toFixed(1)} ${y(v).toFixed(1)}`).join('');
  const levels = [...new Set([shown.high_v, shown.low_v])];
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="w-full" role="img" aria-label={`the lead over ${last.toFixed(0)} µs`}>
      {levels.map((v) => (
        <g key={v}>
          <line x1={LEFT} x2={W - 4} y1={y(v)} y2={y(v)} stroke="var(--color-muted)" strokeDasharray="3 3" />
          <text x={LEFT - 4} y={y(v) + 4} textAnchor="end" fontSize={12} className="mono" fill="var(--color-muted)">
            {v.toFixed(1)} V
          </text>
        </g>
      ))}
      <path d={d} fill="none" stroke="var(--color-copper)" strokeWidth={1.8} />
      <text x={LEFT} y={H - 6} fontSize={12} className="mono" fill="var(--color-muted)">
        0
      </text>
      <text x={W - 4} y={H - 6} textAnchor="end" fontSize={12} className="mono" fill="var(--color-muted)">
        {last.toFixed(last < 10 ? 1 : 0)} µs
      </text>
    </svg>
  );
}
