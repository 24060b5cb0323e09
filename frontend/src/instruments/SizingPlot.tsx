import { scaleLinear, scaleLog } from 'd3-scale';
import { area, line } from 'd3-shape';
import { useState } from 'react';
import type { Frame } from '../api/client';
import { useSize } from '../ui/useSize';
import { Hatch } from './Hatch';

const PAD = { left: 52, right: 14, top: 18, bottom: 40 };
const TICKS_UF = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 40];

interface Props {
  frame: Frame;
  selected: number;
  onSelect: (step: number) => void;
}

/** Speed over series capacitance: barred, non-starting and usable values, the chosen steps and the hand estimate. */
export function SizingPlot({ frame, selected, onSelect }: Props) {
  const [ref, { width, height }] = useSize();
  const [pointer, setPointer] = useState<number | null>(null);
  const points = frame.curve;
  const first = points[0];
  const last = points[points.length - 1];
  const top = frame.top_rpm ?? 1;
  if (!first || !last) return <div ref={ref} className="h-full" />;
  const x = scaleLog().domain([lowest(frame), last.capacitance_f]).range([PAD.left, Math.max(PAD.left + 1, width - PAD.right)]).clamp(true);
  const y = scaleLinear().domain([0, top]).range([Math.max(PAD.top + 1, height - PAD.bottom), PAD.top]);
  const shown = points.filter((p) => p.capacitance_f >= lowest(frame));
  const draw = line<(typeof points)[number]>()
    .defined((p) => p.state === 'ok')
    .x((p) => x(p.capacitance_f))
    .y((p) => y(p.speed_rpm));
  const shade = area<Frame['curve_band'][number]>()
    .x((p) => x(p.capacitance_f))
    .y0((p) => y(p.low_rpm))
    .y1((p) => y(p.high_rpm));
  const under = pointer === null ? null : nearest(shown, x, pointer);
  const aim = frame.aims.find((a) => a.step === selected);
  const reason = frame.zones.find((z) => z.text.startsWith('barred'))?.text ?? 'barred: these values resonate';
  return (
    <div ref={ref} className="relative h-full min-h-0 w-full">
      <svg
        width={width}
        height={height}
        className="absolute inset-0"
        role="img"
        aria-label={`Speed over series capacitance. ${frame.curve_steps.map((s) => `Step ${s.step}, ${s.label}: ${(s.capacitance_f * 1e6).toPrecision(3)} microfarads, ${s.speed_rpm === null ? 'barred' : `${Math.round(s.speed_rpm)} rpm`}`).join('. ')}`}
        onPointerMove={(event) => setPointer(event.clientX - event.currentTarget.getBoundingClientRect().left)}
        onPointerLeave={() => setPointer(null)}
      >
        <Hatch id="plot-hatch" />
        <text x={PAD.left - 8} y={12} textAnchor="end" fontSize={13} opacity={0.8}>
          rpm
        </text>
        <text x={width - PAD.right} y={height - 4} textAnchor="end" fontSize={13} opacity={0.8}>
          µF in the line
        </text>
        {y.ticks(5).map((rpm) => (
          <g key={rpm}>
            <line x1={PAD.left} x2={width - PAD.right} y1={y(rpm)} y2={y(rpm)} stroke="var(--color-rule)" />
            <text className="mono" x={PAD.left - 8} y={y(rpm) + 5} textAnchor="end" fontSize={13}>
              {rpm}
            </text>
          </g>
        ))}
        {TICKS_UF.filter((uf) => uf * 1e-6 >= lowest(frame)).map((uf) => (
          <g key={uf}>
            <line x1={x(uf * 1e-6)} x2={x(uf * 1e-6)} y1={y(0)} y2={y(0) + 5} stroke="var(--color-ink)" />
            <text className="mono" x={x(uf * 1e-6)} y={y(0) + 19} textAnchor="middle" fontSize={13}>
              {uf}
            </text>
          </g>
        ))}
        {stretches(shown).map((s) => (
          <g key={s.from}>
            <rect x={x(s.from)} width={x(s.to) - x(s.from)} y={PAD.top} height={y(0) - PAD.top} fill="url(#plot-hatch)" opacity={0.55} />
            {x(s.to) - x(s.from) > 50 &&
              (s.state === 'barred' ? wrapped(reason, x(s.to) - x(s.from) - 12) : ['will not', 'start']).map((word, i) => (
                <text key={word} x={x(s.from) + 6} y={PAD.top + 18 + 16 * i} fontSize={13} className="on-paper" style={{ fill: 'var(--color-caution)', fontWeight: 600 }}>
                  {word}
                </text>
              ))}
          </g>
        ))}
        <path d={shade([...frame.curve_band]) ?? ''} fill="var(--color-band)" opacity={0.45} />
        <path d={draw([...shown]) ?? ''} fill="none" stroke="var(--color-ink)" strokeWidth={2.4} />
        {frame.curve_steps.map((s) => {
          const on = s.step === selected;
          const colour = on ? 'var(--color-copper)' : 'var(--color-ink)';
          const at = x(s.capacitance_f);
          const high = s.speed_rpm === null ? y(0) - 34 : y(s.speed_rpm);
          return (
            <g key={s.step} onClick={() => onSelect(s.step)} className="cursor-pointer">
              <path
                d={s.speed_rpm === null ? `M${at} ${high} V${y(0)}` : `M${PAD.left} ${high} H${at} V${y(0)}`}
                fill="none"
                stroke={colour}
                strokeWidth={on ? 2 : 1.3}
                strokeDasharray={on ? undefined : '2 4'}
              />
              {s.speed_rpm !== null && <circle cx={at} cy={high} r={on ? 7 : 5} fill={colour} />}
              <circle cx={at} cy={high} r={20} fill="transparent" />
              <text className="on-paper" x={at - 10} y={high - 8} textAnchor="end" fontSize={15} fontWeight={700} style={{ fill: colour }}>
                {s.step} {s.label}
                {s.speed_rpm === null && ' barred'}
              </text>
            </g>
          );
        })}
        {aim?.hand_f && aim.hand_f >= lowest(frame) && (
          <circle
            cx={x(aim.hand_f)}
            cy={y(aim.wanted.value)}
            r={6}
            fill="var(--color-paper)"
            stroke="var(--color-muted)"
            strokeWidth={2}
          />
        )}
        {under && pointer !== null && (
          <g pointerEvents="none">
            <line x1={x(under.capacitance_f)} x2={x(under.capacitance_f)} y1={PAD.top} y2={y(0)} stroke="var(--color-muted)" strokeWidth={1} />
            <text
              className="mono"
              x={Math.min(x(under.capacitance_f) + 8, width - 190)}
              y={y(0) - 10}
              fontSize={13}
              style={{ paintOrder: 'stroke', stroke: 'var(--color-paper)', strokeWidth: 5 }}
            >
              {(under.capacitance_f * 1e6).toPrecision(3)} µF{' '}
              {under.state === 'ok' ? `${Math.round(under.speed_rpm)} rpm` : under.state === 'barred' ? 'barred' : 'will not start'}
            </text>
          </g>
        )}
      </svg>
      {aim?.hand_f && (
        <p className="absolute right-5 max-w-[70%] bg-paper px-1 text-right text-[13px]" style={{ bottom: PAD.bottom + 14 }}>
          <span aria-hidden="true">○ </span>
          {aim.hand_text}
        </p>
      )}
    </div>
  );
}

/** Words in lines of about so many pixels. */
function wrapped(text: string, width: number): string[] {
  const most = Math.max(10, Math.floor(width / 6.6));
  const lines: string[] = [''];
  for (const word of text.split(' ')) {
    const last = lines[lines.length - 1] ?? '';
    if (last && last.length + word.length + 1 > most) lines.push(word);
    else lines[lines.length - 1] = last ? `${last} ${word}` : word;
  }
  return lines.slice(0, 6);
}

function lowest(frame: Frame): number {
  // Half a decade below the first value that runs is enough of the region that does not start.
  const running = frame.curve.find((p) => p.state !== 'stall');
  return running ? running.capacitance_f / 2 : (frame.curve[0]?.capacitance_f ?? 1e-7);
}

function stretches(points: Frame['curve']): { from: number; to: number; state: string }[] {
  const found: { from: number; to: number; state: string }[] = [];
  points.forEach((point, i) => {
    if (point.state === 'ok') return;
    const open = found[found.length - 1];
    const next = points[i + 1]?.capacitance_f ?? point.capacitance_f;
    if (open && open.state === point.state && open.to === point.capacitance_f) open.to = next;
    else found.push({ from: point.capacitance_f, to: next, state: point.state });
  });
  return found;
}

function nearest(points: Frame['curve'], x: (c: number) => number, at: number) {
  let best = points[0];
  for (const p of points) if (best && Math.abs(x(p.capacitance_f) - at) < Math.abs(x(best.capacitance_f) - at)) best = p;
  return best ?? null;
}
