import { Hatch } from '../../instruments/Hatch';
import type { Live } from '../../api/client';

interface Props {
  live: Live;
  full: number;
  id: string;
  selected: number;
}

/** The staff lying down: steps with their bands, hatched where it will not start, notches of the wanted speeds. */
export function Lying({ live, full, id, selected }: Props) {
  const top = full * 1.04;
  const at = (rpm: number) => (200 * Math.min(rpm, top)) / top;
  const hatch = `lying-${id.replace(':', '-')}`;
  return (
    <svg viewBox="0 0 200 30" className="h-[30px] w-full overflow-visible" preserveAspectRatio="none" aria-hidden="true">
      <Hatch id={hatch} />
      <rect x={0} y={8} width={200} height={12} fill="none" stroke="var(--color-ink)" strokeWidth={1} vectorEffect="non-scaling-stroke" />
      {live.zones.map((z) => (
        <rect key={z.low_rpm} x={at(z.low_rpm)} width={Math.max(0, at(z.high_rpm) - at(z.low_rpm))} y={8} height={12} fill={`url(#${hatch})`} />
      ))}
      {live.marks.map((m) => {
        const on = m.step === selected;
        const colour = on ? 'var(--color-copper)' : 'var(--color-ink)';
        return (
          <g key={m.step}>
            {typeof m.predicted?.low === 'number' && typeof m.predicted.high === 'number' && (
              <rect
                x={at(m.predicted.low)}
                width={Math.max(1, at(m.predicted.high) - at(m.predicted.low))}
                y={22}
                height={5}
                fill={on ? colour : 'var(--color-band)'}
                opacity={on ? 0.75 : 1}
              />
            )}
            {m.predicted && (
              <line x1={at(m.predicted.value)} x2={at(m.predicted.value)} y1={8} y2={28} stroke={colour} strokeWidth={2} vectorEffect="non-scaling-stroke" />
            )}
            {m.wanted_rpm !== null && (
              <path
                d={`M${at(m.wanted_rpm) - 2.4} 1 h4.8 l-2.4 6 z`}
                fill={m.verdict === 'ok' ? colour : 'none'}
                stroke={colour}
                strokeWidth={1}
                vectorEffect="non-scaling-stroke"
              />
            )}
          </g>
        );
      })}
    </svg>
  );
}
