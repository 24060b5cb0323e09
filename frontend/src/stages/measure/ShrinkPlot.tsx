import { scaleLinear } from 'd3-scale';
import type { Schemas } from '../../api/client';
import { useSize } from '../../ui/useSize';

const PAD = { left: 50, right: 14, top: 18, row: 34 };

/** The band of one step after each reading, as bars that get narrower. */
export function ShrinkPlot({ shrinks, step }: { shrinks: readonly Schemas['Shrink'][]; step: number }) {
  const [ref, { width }] = useSize();
  if (shrinks.length === 0) return <p className="quiet">Step {step} has no band to follow: choose one below full speed.</p>;
  const low = Math.min(...shrinks.map((s) => s.low_rpm));
  const high = Math.max(...shrinks.map((s) => s.high_rpm));
  const edge = Math.max(8, 0.08 * (high - low));
  const label = 214;
  const x = scaleLinear()
    .domain([Math.max(0, low - edge), high + edge])
    .range([label, Math.max(label + 1, width - 96)]);
  const height = PAD.top + shrinks.length * PAD.row + 22;
  return (
    <div ref={ref} className="w-full">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Band of step ${step}: ${shrinks.map((s) => `after ${s.after} ${s.half_width_text}`).join(', ')}`}
      >
        {x.ticks(4).map((v) => (
          <g key={v}>
            <line x1={x(v)} x2={x(v)} y1={PAD.top - 6} y2={height - 22} stroke="var(--color-rule)" />
            <text className="mono text-note" x={x(v)} y={height - 6} textAnchor="middle">
              {v}
            </text>
          </g>
        ))}
        <text className="text-note" x={width - 4} y={height - 6} textAnchor="end" opacity={0.8}>
          rpm, step {step}
        </text>
        {shrinks.map((s, i) => {
          const y = PAD.top + i * PAD.row + 10;
          const newest = i === shrinks.length - 1;
          return (
            <g key={`${s.after} ${i}`}>
              <text className="text-body" x={0} y={y + 5} fontWeight={newest ? 700 : 400}>
                {i === 0 ? s.after : `+ ${s.after}`}
              </text>
              <rect
                x={x(s.low_rpm)}
                width={Math.max(2, x(s.high_rpm) - x(s.low_rpm))}
                y={y - 7}
                height={14}
                fill={newest ? 'var(--color-flow)' : 'var(--color-band)'}
              />
              <line x1={x(s.middle_rpm)} x2={x(s.middle_rpm)} y1={y - 10} y2={y + 10} stroke="var(--color-ink)" strokeWidth={2} />
              <text className="mono text-body" x={width - 4} y={y + 5} textAnchor="end" fontWeight={newest ? 700 : 400}>
                {s.half_width_text}
              </text>
            </g>
          );
        })}
      </svg>
    </div>
  );
}
