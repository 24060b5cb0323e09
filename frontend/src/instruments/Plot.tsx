import { scaleLinear, scaleLog } from 'd3-scale';
import { useState, type ReactNode } from 'react';
import { useSize } from '../ui/useSize';

export interface Axis {
  domain: readonly [number, number];
  /** What is read on it, with its unit. */
  name: string;
  logarithmic?: boolean;
  /** Where it is marked; left out: at about `count` round values. */
  ticks?: readonly number[];
  count?: number;
  /** A mark as it is written; left out: the number itself. */
  say?: (value: number) => string;
  clamp?: boolean;
}

type Scale = (value: number) => number;

/** What the inside of a plot draws with. */
export interface Inside {
  x: Scale;
  y: Scale;
  /** Of the axis at the right, where there is one. */
  right: Scale;
  width: number;
  height: number;
  /** Edges of the field. */
  left: number;
  top: number;
  end: number;
  bottom: number;
  /** Where the pointer is, on the axis; null outside. */
  pointer: number | null;
}

interface Props {
  x: Axis;
  y: Axis;
  right?: Axis;
  /** The plot in words. */
  label: string;
  pad?: Partial<typeof PAD>;
  className?: string;
  onPointer?: (at: number) => void;
  children: (inside: Inside) => ReactNode;
}

const PAD = { left: 52, right: 16, top: 20, bottom: 36 };

/** Axes with units, marks and a pointer, fitted to the space there is; what stands inside is drawn by who uses it. */
export function Plot({ x, y, right, label, pad, className = '', onPointer, children }: Props) {
  const [ref, { width, height }] = useSize();
  const [pointer, setPointer] = useState<number | null>(null);
  const edge = { ...PAD, ...pad };
  const end = Math.max(edge.left + 1, width - edge.right);
  const bottom = Math.max(edge.top + 1, height - edge.bottom);
  const across = scaleOf(x, [edge.left, end]);
  const up = scaleOf(y, [bottom, edge.top]);
  const other = scaleOf(right ?? y, [bottom, edge.top]);
  return (
    <div ref={ref} className={`relative h-full w-full ${className}`}>
      <svg
        width={width}
        height={height}
        className="absolute inset-0"
        role="img"
        aria-label={label}
        onPointerMove={(event) => {
          const at = across.invert(event.clientX - event.currentTarget.getBoundingClientRect().left);
          setPointer(at);
          onPointer?.(at);
        }}
        onPointerLeave={() => setPointer(null)}
      >
        <text x={edge.left - 8} y={12} textAnchor="end" className="axis-name">
          {y.name}
        </text>
        {right && (
          <text x={end + 8} y={12} className="axis-name">
            {right.name}
          </text>
        )}
        <text x={end} y={height - 3} textAnchor="end" className="axis-name">
          {x.name}
        </text>
        {marks(y, up, 5).map((v) => (
          <g key={v}>
            <line x1={edge.left} x2={end} y1={up(v)} y2={up(v)} stroke="var(--color-rule)" />
            <text className="mono axis-mark" x={edge.left - 8} y={up(v) + 5} textAnchor="end">
              {said(y, v)}
            </text>
          </g>
        ))}
        {right &&
          marks(right, other, 5).map((v) => (
            <text key={v} className="mono axis-mark" x={end + 8} y={other(v) + 5}>
              {said(right, v)}
            </text>
          ))}
        {marks(x, across, 6).map((v) => (
          <g key={v}>
            <line x1={across(v)} x2={across(v)} y1={bottom} y2={bottom + 5} stroke="var(--color-ink)" />
            <text className="mono axis-mark" x={across(v)} y={bottom + 18} textAnchor="middle">
              {said(x, v)}
            </text>
          </g>
        ))}
        {width > 0 && children({ x: across, y: up, right: other, width, height, left: edge.left, top: edge.top, end, bottom, pointer })}
      </svg>
    </div>
  );
}

function scaleOf(axis: Axis, range: [number, number]) {
  const scale = (axis.logarithmic ? scaleLog() : scaleLinear()).domain([...axis.domain]).range(range);
  return axis.clamp ? scale.clamp(true) : scale;
}

const said = (axis: Axis, value: number) => (axis.say ? axis.say(value) : String(value)).replace('-', '−');

function marks(axis: Axis, scale: ReturnType<typeof scaleOf>, count: number): readonly number[] {
  const [low, high] = axis.domain;
  const wanted = axis.ticks ?? (axis.logarithmic ? roundOnLog(low, high) : scale.ticks(axis.count ?? count));
  return wanted.filter((v) => v >= low * (1 - 1e-9) && v <= high * (1 + 1e-9));
}

/** 1, 2, 5 in every decade. */
function roundOnLog(low: number, high: number): number[] {
  const found: number[] = [];
  for (let decade = Math.floor(Math.log10(low)); decade <= Math.ceil(Math.log10(high)); decade++) {
    found.push(...[1, 2, 5].map((m) => Number((m * 10 ** decade).toPrecision(3))));
  }
  return found;
}

/** The entry nearest to a value. */
export function nearest(values: readonly number[], at: number): number {
  let best = 0;
  values.forEach((v, i) => {
    if (Math.abs(v - at) < Math.abs((values[best] ?? 0) - at)) best = i;
  });
  return best;
}

/** Where the pointer stands, as a line with words beside it that never leave the plot. */
export function Pointer({ at, inside, y, text }: { at: number; inside: Inside; y: number; text: string }) {
  const x = inside.x(at);
  const room = text.length * 8 + 12;
  return (
    <g pointerEvents="none">
      <line x1={x} x2={x} y1={inside.top} y2={inside.bottom} stroke="var(--color-muted)" />
      <text className="mono on-paper axis-mark" x={Math.max(inside.left + 4, Math.min(x + 8, inside.width - room))} y={y}>
        {text}
      </text>
    </g>
  );
}
