import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { Hatch } from '../../instruments/Hatch';
import { useSize } from '../../ui/useSize';
import type { CoolingShown } from './api';

/** What of the curve is moved, with what it becomes. */
export interface Moved {
  start?: number;
  full?: number;
  stop?: number;
  least?: number;
}

interface Props {
  shown: CoolingShown;
  fullRpm: number;
  onDrag: (moved: Moved) => void;
  onDrop: (moved: Moved) => void;
}

const PAD = { left: 58, right: 86, top: 26, bottom: 34 };
type Handle = 'stop' | 'start' | 'full' | 'least';
const SAID: Record<Handle, string> = { stop: 'stops', start: 'starts', full: 'full', least: 'least speed' };

/** Speed over temperature, temperature upward; the ends of its lines are dragged, or moved by the arrow keys. */
export function CurvePlot({ shown, fullRpm, onDrag, onDrop }: Props) {
  const [ref, { width, height }] = useSize();
  const [held, setHeld] = useState<Handle | null>(null);
  const last = useRef<Moved>({});
  const [stop, start, full] = shown.curve;
  const sinks = shown.sinks.flatMap((s) => [...s.shared.values]).filter((v): v is number => v !== null);
  const low = Math.floor(Math.min((stop?.temperature_c ?? 20) - 6, ...sinks, 20) / 5) * 5;
  const high = Math.ceil(Math.max((full?.temperature_c ?? 60) + 6, ...sinks) / 5) * 5;
  const end = Math.max(PAD.left + 1, width - PAD.right);
  const bottom = Math.max(PAD.top + 1, height - PAD.bottom);
  const x = (share: number) => PAD.left + share * (end - PAD.left);
  const y = (c: number) => bottom - ((c - low) / (high - low)) * (bottom - PAD.top);
  if (!stop || !start || !full) return null;
  const at: Record<Handle, { share: number; c: number }> = {
    stop: { share: 0, c: stop.temperature_c },
    start: { share: 0, c: start.temperature_c },
    full: { share: 1, c: full.temperature_c },
    least: { share: start.share, c: start.temperature_c },
  };
  const moved = (handle: Handle, share: number, c: number): Moved => {
    const round = (v: number) => Math.round(v * 2) / 2;
    if (handle === 'least') return { least: Math.min(1, Math.max(shown.least_share, Math.round(share * 100) / 100)) };
    if (handle === 'start') return { start: Math.min(round(c), full.temperature_c - 0.5) };
    if (handle === 'full') return { full: Math.max(round(c), start.temperature_c + 0.5) };
    return { stop: Math.min(round(c), start.temperature_c - 0.5) };
  };
  const pulled = (event: PointerEvent<SVGElement>, handle: Handle) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box) return;
    const share = (event.clientX - box.left - PAD.left) / (end - PAD.left);
    const c = low + ((bottom - (event.clientY - box.top)) / (bottom - PAD.top)) * (high - low);
    last.current = moved(handle, share, c);
    onDrag(last.current);
  };
  const keyed = (event: KeyboardEvent, handle: Handle) => {
    const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 5, PageDown: -5 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const here = at[handle];
    onDrop(handle === 'least' ? moved(handle, here.share + by / 100, here.c) : moved(handle, here.share, here.c + by * 0.5));
  };
  const line = `M${x(0)} ${y(stop.temperature_c)} H${x(start.share)} V${y(start.temperature_c)} L${x(1)} ${y(full.temperature_c)} V${y(high)}`;
  const ticks = Array.from({ length: Math.floor((high - low) / 10) + 1 }, (_, i) => Math.ceil(low / 10) * 10 + 10 * i).filter((v) => v <= high);
  return (
    <div ref={ref} className="relative h-full w-full">
      <svg width={width} height={height} className="absolute inset-0 touch-none" aria-label="Speed over temperature" role="group">
        <Hatch id="too-slow" />
        <text x={PAD.left - 8} y={12} textAnchor="end" className="axis-name">
          °C
        </text>
        <text x={end} y={height - 3} textAnchor="end" className="axis-name">
          % of full speed
        </text>
        {ticks.map((v) => (
          <g key={v}>
            <line x1={PAD.left} x2={end} y1={y(v)} y2={y(v)} stroke="var(--color-rule)" />
            <text className="mono axis-mark" x={PAD.left - 8} y={y(v) + 5} textAnchor="end">
              {v}
            </text>
          </g>
        ))}
        {[0, 0.25, 0.5, 0.75, 1].map((v) => (
          <text key={v} className="mono axis-mark" x={x(v)} y={bottom + 17} textAnchor="middle">
            {100 * v}
          </text>
        ))}
        {shown.least_share > 0 && (
          <g>
            <rect x={x(0)} width={x(shown.least_share) - x(0)} y={y(high)} height={y(start.temperature_c) - y(high)} fill="url(#too-slow)" opacity={0.7} />
            {x(shown.least_share) - x(0) > 90 && (
              <text className="axis-mark on-paper" x={x(0) + 6} y={y(high) + 16} style={{ fill: 'var(--color-caution)' }}>
                slower than it turns
              </text>
            )}
          </g>
        )}
        <path d={`M${x(0)} ${y(low)} V${y(start.temperature_c)} H${x(start.share)}`} fill="none" stroke="var(--color-muted)" strokeDasharray="4 4" />
        <path d={line} fill="none" stroke="var(--color-air)" strokeWidth={2.6} />
        <path d={`M${x(0)} ${y(low)} V${y(stop.temperature_c)}`} fill="none" stroke="var(--color-air)" strokeWidth={2.6} />
        {(['stop', 'start', 'least', 'full'] as const).map((handle) => {
          const p = at[handle];
          const text = handle === 'least' ? `${Math.round(100 * p.share)} %` : `${p.c.toFixed(1)} °C`;
          return (
            <g key={handle}>
              <circle
                cx={x(p.share)}
                cy={y(p.c)}
                r={20}
                fill="transparent"
                tabIndex={0}
                role="slider"
                aria-label={SAID[handle]}
                aria-valuenow={handle === 'least' ? Math.round(100 * p.share) : p.c}
                aria-valuemin={handle === 'least' ? Math.round(100 * shown.least_share) : low}
                aria-valuemax={handle === 'least' ? 100 : high}
                aria-valuetext={handle === 'least' ? `${text}, ${Math.round(p.share * fullRpm)} rpm` : text}
                className="peer cursor-grab"
                style={{ cursor: held === handle ? 'grabbing' : 'grab' }}
                onPointerDown={(event) => {
                  event.currentTarget.setPointerCapture(event.pointerId);
                  event.currentTarget.focus();
                  last.current = {};
                  setHeld(handle);
                }}
                onPointerMove={(event) => held === handle && pulled(event, handle)}
                onPointerUp={() => {
                  setHeld(null);
                  if (Object.keys(last.current).length > 0) onDrop(last.current);
                }}
                onPointerCancel={() => setHeld(null)}
                onKeyDown={(event) => keyed(event, handle)}
              />
              <circle cx={x(p.share)} cy={y(p.c)} r={7} fill="var(--color-paper)" stroke="var(--color-copper)" strokeWidth={2.6} pointerEvents="none" />
              <text
                className="mono on-paper step-mark"
                x={handle === 'full' ? x(p.share) + 12 : x(p.share) + 13}
                y={y(p.c) + (handle === 'stop' ? 18 : handle === 'start' ? -9 : 5)}
                pointerEvents="none"
              >
                {handle === 'full' || handle === 'least' ? text : `${SAID[handle]} ${text}`}
              </text>
            </g>
          );
        })}
      </svg>
    </div>
  );
}
