import { scaleLinear } from 'd3-scale';
import type { Schemas } from '../../api/client';

const W = 400;
const H = 170;
const PAD = { left: 46, right: 12, top: 12, bottom: 24 };

/** Measured over rated, year by year, with the line and the tolerance it heads for. */
export function DriftPlot({ drift, day }: { drift: Schemas['DriftShown']; day: (d: number) => string }) {
  const days = drift.points.map((p) => p.day);
  const first = Math.min(...days);
  const end = Math.max(...days, drift.leaves_day ?? 0, drift.leaves_high && drift.leaves_high < first + 4000 ? drift.leaves_high : 0);
  const x = scaleLinear()
    .domain([first, Math.max(end, first + 30)])
    .range([PAD.left, W - PAD.right]);
  const shares = drift.points.map((p) => p.share);
  const y = scaleLinear()
    .domain([Math.min(drift.low - 0.03, ...shares), Math.max(drift.high + 0.01, ...shares)])
    .range([H - PAD.bottom, PAD.top]);
  const [a, b] = drift.line;
  const slope = a && b && b.day > a.day ? (b.share - a.share) / (b.day - a.day) : 0;
  const lastDay = x.domain()[1] ?? first;
  return (
    <svg width={W} height={H} role="img" aria-label={`History: ${drift.points.map((p) => `${day(p.day)} ${p.text}`).join(', ')}`} className="max-w-full">
      <text className="text-note" x={PAD.left - 6} y={10} textAnchor="end" opacity={0.8}>
        % of rated
      </text>
      <rect x={PAD.left} width={W - PAD.left - PAD.right} y={y(drift.high)} height={y(drift.low) - y(drift.high)} fill="var(--color-shade)" />
      {[drift.low, 1, drift.high].map((v) => (
        <g key={v}>
          <line x1={PAD.left} x2={W - PAD.right} y1={y(v)} y2={y(v)} stroke="var(--color-rule)" />
          <text className="mono text-note" x={PAD.left - 6} y={y(v) + 4} textAnchor="end">
            {Math.round(100 * v)}
          </text>
        </g>
      ))}
      {a && b && (
        <line x1={x(a.day)} y1={y(a.share)} x2={x(lastDay)} y2={y(a.share + slope * (lastDay - a.day))} stroke="var(--color-copper)" strokeWidth={1.6} />
      )}
      {drift.leaves_low && (
        <line
          x1={x(Math.max(first, drift.leaves_low))}
          x2={x(Math.min(lastDay, drift.leaves_high ?? lastDay))}
          y1={y(drift.low)}
          y2={y(drift.low)}
          stroke="var(--color-copper)"
          strokeWidth={5}
          opacity={0.5}
        />
      )}
      {drift.points.map((p) => (
        <circle key={p.day} cx={x(p.day)} cy={y(p.share)} r={4.5} fill="var(--color-ink)" />
      ))}
      <text className="text-note" x={PAD.left} y={H - 6}>
        {day(first)}
      </text>
      <text className="text-note" x={W - PAD.right} y={H - 6} textAnchor="end">
        {day(lastDay)}
      </text>
    </svg>
  );
}
