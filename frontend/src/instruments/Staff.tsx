import { scaleLinear } from 'd3-scale';
import { Slider } from 'radix-ui';
import type { Frame, Mark } from '../api/client';
import { useSize } from '../ui/useSize';
import { Hatch } from './Hatch';
import { placeLabels } from './labels';
import { VerdictSign } from './VerdictSign';

interface AimHandles {
  /** Wanted speeds while dragging, rising, rpm. */
  wanted: number[];
  onDrag: (wanted: number[]) => void;
  onDrop: (wanted: number[]) => void;
}

interface Props {
  frame: Frame;
  selected: number;
  onSelect: (step: number) => void;
  aim?: AimHandles;
}

const ROD_LEFT = 78;
const ROD_RIGHT = 102;
const LANES = [108, 122];
const LABEL_LEFT = 144;
const PAD = { top: 34, bottom: 38 };

/** The graduated rod: wanted notches, predicted bands, measured dots, and the speeds to keep away from. */
export function Staff({ frame, selected, onSelect, aim }: Props) {
  const [ref, { height }] = useSize();
  const full = frame.full?.value ?? null;
  const top = frame.top_rpm ?? null;
  const inner = Math.max(10, height - PAD.top - PAD.bottom);
  const y = scaleLinear()
    .domain([0, top ?? 1])
    .range([PAD.top + inner, PAD.top]);
  const labels = full
    ? placeLabels(
        frame.marks.map((m) => ({ step: m.step, at: y(speedOf(m) ?? 0) })),
        PAD.top + 2,
      )
    : new Map<number, number>();
  return (
    <div ref={ref} className="relative h-full w-[226px] select-none" aria-label={`Speed staff. ${keepAway(frame)}`} role="group">
      <svg width={226} height={height} aria-hidden="true" className="absolute inset-0">
        <Hatch id="staff-hatch" />
        <text className="text-note" x={ROD_LEFT - 30} y={20} textAnchor="end" opacity={0.75}>
          rpm
        </text>
        <text className="text-note" x={216} y={20} textAnchor="end" opacity={0.75}>
          % of full
        </text>
        {top !== null && (
          <>
            {frame.zones.map((zone) => {
              const high = Math.min(zone.high_rpm, top);
              if (zone.low_rpm >= top) return null;
              return (
                <g key={`${zone.kind} ${zone.low_rpm}`}>
                  <rect x={ROD_LEFT} width={ROD_RIGHT - ROD_LEFT} y={y(high)} height={y(zone.low_rpm) - y(high)} fill="url(#staff-hatch)" />
                  {barred(zone) && y(zone.low_rpm) - y(high) > 54 && (
                    <text
                      className="on-paper text-note"
                      fontWeight={600}
                      textAnchor="middle"
                      style={{ fill: 'var(--color-caution)' }}
                      transform={`translate(${(ROD_LEFT + ROD_RIGHT) / 2 + 5} ${(y(zone.low_rpm) + y(high)) / 2}) rotate(-90)`}
                    >
                      barred
                    </text>
                  )}
                </g>
              );
            })}
            {y.ticks(30).map((rpm) => {
              const named = y.ticks(8).includes(rpm);
              return (
                <g key={rpm}>
                  <line x1={ROD_LEFT} x2={ROD_LEFT + (named ? 12 : 6)} y1={y(rpm)} y2={y(rpm)} stroke="var(--color-ink)" />
                  {named && (
                    <text className="mono text-body" x={ROD_LEFT - 30} y={y(rpm) + 5} textAnchor="end">
                      {rpm}
                    </text>
                  )}
                </g>
              );
            })}
            {full && <line x1={ROD_LEFT} x2={ROD_RIGHT + 8} y1={y(full)} y2={y(full)} stroke="var(--color-ink)" strokeWidth={2} />}
          </>
        )}
        <rect x={ROD_LEFT} y={PAD.top} width={ROD_RIGHT - ROD_LEFT} height={inner} fill="none" stroke="var(--color-ink)" strokeWidth={1.5} />
        {top !== null &&
          frame.taps.map((tap) => (
            <g key={tap.role}>
              <rect
                x={ROD_LEFT - 7}
                width={5}
                y={y(tap.high_rpm)}
                height={Math.max(2, y(tap.low_rpm) - y(tap.high_rpm))}
                fill="var(--color-air)"
                opacity={0.45}
              />
              <path d={`M${ROD_LEFT - 26} ${y(tap.speed_rpm)} H${ROD_LEFT}`} stroke="var(--color-air)" strokeWidth={2} />
              <text x={ROD_LEFT - 28} y={y(tap.speed_rpm) - 3} textAnchor="start" className="on-paper text-note" style={{ fill: 'var(--color-air)' }}>
                {tap.lead}
              </text>
            </g>
          ))}
        {full === null && (
          <text className="text-sign" x={ROD_RIGHT + 30} y={PAD.top + inner / 2} opacity={0.6}>
            ?
          </text>
        )}
        {full !== null &&
          frame.marks.map((mark) => (
            <MarkDrawing key={mark.step} mark={mark} y={y} labelY={labels.get(mark.step) ?? 0} on={mark.step === selected} notch={!aim} />
          ))}
        {/* What was read stands above every band and line. */}
        {full !== null &&
          frame.marks.map(
            (mark) =>
              mark.measured_rpm !== null && (
                <VerdictSign key={mark.step} x={(LANES[mark.step % 2] ?? 106) + 5.5} y={y(mark.measured_rpm)} verdict={mark.measured_verdict} />
              ),
          )}
        <text className="text-note" x={4} y={height - 12} opacity={0.75}>
          ▸ wanted ▮ expected ● read
        </text>
      </svg>
      {full !== null &&
        frame.zones
          .filter(
            (zone) => !barred(zone) && zone.low_rpm < (top ?? 0) && y(zone.low_rpm) - y(Math.min(zone.high_rpm, top ?? 0)) > (zone.kind === 'avoid' ? 14 : 30),
          )
          .map((zone) => (
            <p
              key={`${zone.kind} ${zone.low_rpm}`}
              className={zone.kind === 'avoid' ? 'absolute right-3 text-note text-caution' : 'absolute w-[84px] text-note leading-tight text-caution'}
              style={
                zone.kind === 'avoid'
                  ? { top: (y(zone.low_rpm) + y(Math.min(zone.high_rpm, top ?? 0))) / 2 - 9 }
                  : { left: LABEL_LEFT - 32, top: zone.kind === 'unsafe' ? y(Math.min(zone.high_rpm, top ?? 0)) + 12 : y(zone.low_rpm) - 32 }
              }
              title={zone.text}
            >
              {zone.kind === 'avoid' ? 'avoid' : zone.text}
            </p>
          ))}
      {full !== null &&
        frame.marks.map((mark) => {
          const at = labels.get(mark.step);
          if (at === undefined) return null;
          const on = mark.step === selected;
          return (
            <button
              key={mark.step}
              type="button"
              aria-pressed={on}
              aria-label={spoken(mark)}
              title={mark.reasons.join('; ')}
              onClick={() => onSelect(mark.step)}
              className={`absolute flex h-10 items-end justify-between ${on ? 'text-copper' : ''}`}
              style={{ left: LABEL_LEFT, width: 226 - LABEL_LEFT - 8, top: at - 40 }}
            >
              <span className="text-title leading-[22px] font-bold">{mark.step}</span>
              <span className="mono text-lead leading-[22px]">
                {mark.verdict === 'ok' ? mark.share_text : mark.verdict === 'barred' ? 'barred' : 'no start'}
              </span>
            </button>
          );
        })}
      {aim && full !== null && top !== null && aim.wanted.length > 0 && (
        <Slider.Root
          orientation="vertical"
          min={0}
          max={top}
          step={1}
          minStepsBetweenThumbs={Math.max(1, Math.ceil(full / 90))}
          value={aim.wanted}
          onValueChange={aim.onDrag}
          onValueCommit={aim.onDrop}
          className="absolute flex touch-none flex-col items-center"
          style={{ left: ROD_LEFT - 44, width: 68, top: PAD.top, height: inner }}
        >
          <Slider.Track className="relative h-full w-full" />
          {aim.wanted.map((rpm, i) => (
            <Slider.Thumb
              key={i}
              aria-label={`step ${i + 1}, wanted speed`}
              aria-valuetext={`${Math.round(rpm)} rpm, ${Math.round((100 * rpm) / full)} per cent of full speed`}
              onFocus={() => onSelect(i + 1)}
              className="group block h-px w-[70px] cursor-ns-resize outline-none before:absolute before:-top-5 before:h-10 before:w-full before:content-['']"
            >
              <svg width={70} height={24} className="pointer-events-none absolute -top-3 left-0 overflow-visible" aria-hidden="true">
                <line x1={44} x2={70} y1={12} y2={12} stroke={i + 1 === selected ? 'var(--color-copper)' : 'var(--color-ink)'} strokeWidth={1.5} />
                <path d="M24 3 L43 12 L24 21 Z" fill={i + 1 === selected ? 'var(--color-copper)' : 'var(--color-ink)'} />
                <rect x={20} y={-1} width={27} height={26} fill="none" strokeWidth={2} className="stroke-transparent group-focus-visible:stroke-copper" />
              </svg>
            </Slider.Thumb>
          ))}
        </Slider.Root>
      )}
    </div>
  );
}

type Scale = (rpm: number) => number;

/** A stretch that only resonating values would reach; its reason stands on the plot, and is spoken with the staff. */
const barred = (zone: Frame['zones'][number]) => zone.kind === 'barred';

/** Full speed and the speeds to keep away from, in words. */
function keepAway(frame: Frame): string {
  const full = frame.full ? `Full speed ${frame.full.number} rpm.` : 'Full speed is not known yet.';
  return [
    full,
    ...frame.taps.map((t) => `Tap ${t.lead}, ${t.role}: ${t.text}.`),
    ...frame.zones.map((z) => `${Math.round(z.low_rpm)} to ${Math.round(z.high_rpm)} rpm: ${z.text}.`),
  ].join(' ');
}

function speedOf(mark: Mark): number | null {
  return mark.predicted?.value ?? mark.wanted_rpm ?? null;
}

function spoken(mark: Mark): string {
  const parts = [`step ${mark.step}`];
  if (mark.label) parts.push(mark.label);
  if (mark.wanted_rpm !== null) parts.push(`wanted ${Math.round(mark.wanted_rpm)} rpm`);
  if (mark.predicted) parts.push(`expected ${mark.predicted.number} ${mark.predicted.unit}`);
  if (mark.measured_rpm !== null) parts.push(`read ${mark.measured_rpm} rpm, ${mark.measured_verdict ?? ''}`);
  if (mark.doubt_text) parts.push(mark.doubt_text);
  if (mark.verdict !== 'ok') parts.push(mark.verdict, ...mark.reasons);
  return parts.join(', ');
}

function MarkDrawing({ mark, y, labelY, on, notch }: { mark: Mark; y: Scale; labelY: number; on: boolean; notch: boolean }) {
  const lane = LANES[mark.step % 2] ?? 106;
  const colour = on ? 'var(--color-copper)' : 'var(--color-ink)';
  const band = mark.predicted;
  const speed = speedOf(mark);
  return (
    <g>
      {notch && mark.wanted_rpm !== null && <path d={`M${ROD_LEFT - 12} ${y(mark.wanted_rpm) - 6} l11 6 l-11 6 Z`} fill={colour} />}
      {typeof band?.low === 'number' && typeof band.high === 'number' && (
        <rect x={lane} width={11} y={y(band.high)} height={Math.max(2, y(band.low) - y(band.high))} fill={on ? 'var(--color-flow)' : 'var(--color-band)'} />
      )}
      {band && <line x1={lane - 2} x2={lane + 13} y1={y(band.value)} y2={y(band.value)} stroke={colour} strokeWidth={2} />}
      {speed !== null && (
        <path
          d={`M${lane + 13} ${y(speed)} L${LABEL_LEFT - 4} ${labelY} H218`}
          fill="none"
          stroke={on ? 'var(--color-copper)' : 'var(--color-rule)'}
          strokeWidth={on ? 1.5 : 1}
        />
      )}
      {mark.doubt_text && (
        <text className="on-paper text-note" x={218} y={labelY + 14} textAnchor="end" style={{ fill: 'var(--color-caution)' }}>
          △ {mark.doubt_text}
        </text>
      )}
    </g>
  );
}
