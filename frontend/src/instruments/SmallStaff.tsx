import { scaleLinear } from 'd3-scale';
import type { Schemas } from '../api/client';
import { Hatch } from './Hatch';
import { VerdictSign } from './VerdictSign';

/** A job on the Bench: its staff, without text but the shares. */
export function SmallStaff({ card, height }: { card: Schemas['Card']; height: number }) {
  const top = card.full_rpm ? card.full_rpm * 1.04 : 1;
  const y = scaleLinear()
    .domain([0, top])
    .range([height - 2, 4]);
  const id = `bench-hatch-${card.id}`;
  const shares = spread(
    card.marks.map((m) => ({
      step: m.step,
      at: y(m.predicted?.value ?? m.wanted_rpm ?? 0),
      text: m.verdict === 'ok' ? m.share_text : m.verdict === 'barred' ? 'barred' : 'no start',
    })),
  );
  return (
    <svg width={112} height={height} aria-hidden="true" className="overflow-visible">
      <Hatch id={id} />
      {card.full_rpm !== null &&
        card.zones.map((z) => (
          <rect
            key={z.low_rpm}
            x={2}
            width={22}
            y={y(Math.min(z.high_rpm, top))}
            height={Math.max(0, y(z.low_rpm) - y(Math.min(z.high_rpm, top)))}
            fill={`url(#${id})`}
          />
        ))}
      {card.full_rpm !== null &&
        Array.from({ length: 11 }, (_, i) => (
          <line key={i} x1={2} x2={i % 5 ? 8 : 13} y1={y((card.full_rpm ?? 0) * (i / 10))} y2={y((card.full_rpm ?? 0) * (i / 10))} stroke="var(--color-ink)" />
        ))}
      <rect
        x={2}
        y={4}
        width={22}
        height={height - 6}
        fill="none"
        stroke="var(--color-ink)"
        strokeWidth={1.5}
        opacity={card.refused ? 0.3 : 1}
        strokeDasharray={card.waits_kind === 'unsized' ? '5 4' : undefined}
      />
      {card.refused && <line x1={-6} x2={32} y1={height - 30} y2={34} stroke="var(--color-copper)" strokeWidth={3} />}
      {!card.refused && card.waits_kind !== 'unsized' && card.full_rpm === null && (
        <text className="text-sign" x={36} y={height / 2} opacity={0.6}>
          ?
        </text>
      )}
      {card.marks.map((m) => (
        <g key={m.step}>
          {typeof m.predicted?.low === 'number' && typeof m.predicted.high === 'number' && (
            <rect
              x={30 + (m.step % 2) * 11}
              width={9}
              y={y(m.predicted.high)}
              height={Math.max(3, y(m.predicted.low) - y(m.predicted.high))}
              fill="var(--color-band)"
            />
          )}
          {m.wanted_rpm !== null && <line x1={26} x2={56} y1={y(m.wanted_rpm)} y2={y(m.wanted_rpm)} stroke="var(--color-ink)" />}
          {m.measured_rpm !== null && <VerdictSign x={34.5 + (m.step % 2) * 11} y={y(m.measured_rpm)} verdict={m.measured_verdict} />}
        </g>
      ))}
      {shares.map((s) => (
        <text key={s.step} className="mono text-body" x={108} y={s.at + 5} textAnchor="end">
          {s.text}
        </text>
      ))}
    </svg>
  );
}

function spread(rows: { step: number; at: number; text: string }[]) {
  let ceiling = Infinity;
  return [...rows]
    .sort((a, b) => b.at - a.at)
    .map((row) => {
      const at = Math.min(row.at, ceiling - 17);
      ceiling = at;
      return { ...row, at };
    });
}
