import { area, line } from 'd3-shape';
import { Plot } from '../../instruments/Plot';
import type { Schemas } from '../../api/client';

type Over = Schemas['OverTravel'];

/** Frequency of a timer against the fan's band, and the duty on the lead, over the pot's travel; bands of nine in ten boards. */
export function Travel({ over, marks }: { over: Over; marks: readonly { step: number; at: number }[] }) {
  const top = Math.max(...over.band_hz.flat(), over.high_hz) / 1e3;
  const wide = { domain: [0, 100] as const, name: '% of the pot’s travel' };
  return (
    <div className="grid h-full grid-rows-[minmax(0,1.1fr)_minmax(0,1fr)]">
      <Plot
        x={{ ...wide, name: '' }}
        y={{ domain: [0, top * 1.06], name: 'kHz' }}
        pad={{ bottom: 22 }}
        label={`Frequency over the travel: ${over.spread_text}`}
      >
        {(inside) => {
          const y = (hz: number) => inside.y(hz / 1e3);
          const x = (t: number) => inside.x(100 * t);
          return (
            <>
              <rect
                x={inside.left}
                width={inside.end - inside.left}
                y={y(over.high_hz)}
                height={y(over.low_hz) - y(over.high_hz)}
                fill="var(--color-air)"
                opacity={0.14}
              />
              <text className="axis-mark on-paper" x={inside.end - 6} y={y(over.high_hz) + 15} textAnchor="end" style={{ fill: 'var(--color-air)' }}>
                what the fan takes
              </text>
              <path d={band(over.band_travel, over.band_hz, x, y)} fill="var(--color-band)" opacity={0.5} />
              <path d={curve(over.travel, over.frequency_hz, x, y, over.collapsed)} fill="none" stroke="var(--color-ink)" strokeWidth={2.2} />
            </>
          );
        }}
      </Plot>
      <Plot x={wide} y={{ domain: [0, 100], name: '% duty' }} label="Duty on the lead over the travel">
        {(inside) => {
          const y = (d: number) => inside.y(100 * d);
          const x = (t: number) => inside.x(100 * t);
          const gone = over.travel.filter((_, i) => over.collapsed[i]);
          return (
            <>
              <path d={band(over.band_travel, over.band_duty, x, y)} fill="var(--color-band)" opacity={0.5} />
              <path d={curve(over.travel, over.duty, x, y, over.collapsed)} fill="none" stroke="var(--color-copper)" strokeWidth={2.2} />
              {gone.map((t) => (
                <line key={t} x1={x(t)} x2={x(t)} y1={inside.bottom} y2={inside.bottom - 8} stroke="var(--color-hazard)" strokeWidth={4} />
              ))}
              {gone.length > 0 && (
                <text
                  className="axis-mark on-paper"
                  x={x(gone[0] ?? 0) + ((gone[0] ?? 0) > 0.5 ? -6 : 6)}
                  y={inside.bottom - 12}
                  textAnchor={(gone[0] ?? 0) > 0.5 ? 'end' : 'start'}
                  style={{ fill: 'var(--color-caution)' }}
                >
                  pulses swallowed
                </text>
              )}
              {marks.map((m) => (
                <g key={m.step}>
                  <line x1={inside.left} x2={inside.end} y1={y(m.at)} y2={y(m.at)} stroke="var(--color-rule)" strokeDasharray="3 4" />
                  <text className="step-mark on-paper" x={inside.left + 6} y={y(m.at) - 3}>
                    {m.step}
                  </text>
                </g>
              ))}
            </>
          );
        }}
      </Plot>
    </div>
  );
}

type Scale = (value: number) => number;

function curve(at: readonly number[], values: readonly number[], x: Scale, y: Scale, gone: readonly boolean[]): string {
  return (
    line<number>()
      .defined((_, i) => !gone[i])
      .x((_, i) => x(at[i] ?? 0))
      .y((v) => y(v))([...values]) ?? ''
  );
}

function band(at: readonly number[], rows: readonly (readonly number[])[], x: Scale, y: Scale): string {
  const [low, , high] = rows;
  if (!low || !high) return '';
  return (
    area<number>()
      .x((_, i) => x(at[i] ?? 0))
      .y0((_, i) => y(low[i] ?? 0))
      .y1((_, i) => y(high[i] ?? 0))([...at]) ?? ''
  );
}
