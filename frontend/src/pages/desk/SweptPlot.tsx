import { line } from 'd3-shape';
import { Slider } from 'radix-ui';
import { Plot, type Axis } from '../../instruments/Plot';
import type { Schemas } from '../../api/client';

type Swept = Schemas['Swept'];
type Curve = Schemas['SweptCurve'];

const PAD = { left: 64, right: 64, top: 20, bottom: 36 };
const INKS = ['var(--color-ink)', 'var(--color-air)'];
const STOPS = 400;
const HANDLE = 24;

/** Answers over one field, which is dragged along the plot's foot. */
export function SweptPlot({ swept, text, onDrag }: { swept: Swept; text: string; onDrag: (at: number, done: boolean) => void }) {
  const low = swept.at[0] ?? 0;
  const high = swept.at[swept.at.length - 1] ?? 1;
  const [first, second] = swept.curves;
  if (!first || swept.at.length < 2) return null;
  const across = axisOf(swept.label, swept.unit, low, high, swept.logarithmic);
  // Where the handle stands, over the travel of the axis as it is drawn.
  const part = swept.logarithmic ? Math.log(swept.now / low) / Math.log(high / low) : (swept.now - low) / (high - low);
  const valueAt = (p: number) => (swept.logarithmic ? low * Math.pow(high / low, p) : low + (high - low) * p);
  return (
    <div className="flex h-[230px] flex-col">
      <div className="min-h-0 flex-1">
        <Plot
          pad={PAD}
          label={`${swept.curves.map((c) => c.label).join(' and ')} over ${swept.label}`}
          x={across.axis}
          y={upright(first).axis}
          {...(second ? { right: upright(second).axis } : {})}
        >
          {(inside) => (
            <>
              {swept.curves.map((curve, i) => {
                const scale = i === 0 ? inside.y : inside.right;
                const by = upright(curve).by;
                const points = swept.at.map((at, j) => ({ at, found: curve.found[j] ?? null }));
                const drawn = line<(typeof points)[number]>()
                  .defined((p) => p.found !== null)
                  .x((p) => inside.x(p.at / across.by))
                  .y((p) => scale((p.found ?? 0) / by));
                const named = points.findLast((p) => p.found !== null);
                return (
                  <g key={curve.name}>
                    <path d={drawn(points) ?? ''} fill="none" stroke={INKS[i]} strokeWidth={2.2} strokeDasharray={i ? '6 4' : undefined} />
                    {named && (
                      <text
                        className="on-paper axis-mark"
                        textAnchor="end"
                        x={inside.x(named.at / across.by) - 4}
                        y={Math.max(inside.top + 12, scale((named.found ?? 0) / by) + (i ? 16 : -6))}
                        style={{ fill: INKS[i] }}
                      >
                        {curve.label}
                      </text>
                    )}
                  </g>
                );
              })}
              <line
                strokeWidth={2}
                x1={inside.x(swept.now / across.by)}
                x2={inside.x(swept.now / across.by)}
                y1={inside.top}
                y2={inside.bottom}
                stroke="var(--color-copper)"
              />
            </>
          )}
        </Plot>
      </div>
      <Slider.Root
        className="relative flex h-10 touch-none items-center select-none"
        // The handle's middle, not its edge, reaches the ends.
        style={{ marginLeft: PAD.left - HANDLE / 2, marginRight: PAD.right - HANDLE / 2 }}
        min={0}
        max={STOPS}
        step={1}
        value={[Math.round(Math.min(1, Math.max(0, part)) * STOPS)]}
        onValueChange={([v]) => onDrag(valueAt((v ?? 0) / STOPS), false)}
        onValueCommit={([v]) => onDrag(valueAt((v ?? 0) / STOPS), true)}
      >
        <Slider.Track className="relative h-px grow bg-rule">
          <Slider.Range className="absolute h-full bg-copper" />
        </Slider.Track>
        <Slider.Thumb className="block size-6 rounded-full border-2 border-copper bg-paper" aria-label={swept.label} aria-valuetext={text} />
      </Slider.Root>
    </div>
  );
}

const PREFIXES: readonly [number, string][] = [
  [1e6, 'M'],
  [1e3, 'k'],
  [1, ''],
  [1e-3, 'm'],
  [1e-6, 'µ'],
  [1e-9, 'n'],
  [1e-12, 'p'],
];
const WHOLE_UNITS = ['rpm', 'dB', '°C', 'K', 'mm', 'mm²', '°', 'm³/h', 'kWh', 'K/W', 'kg/m³', 'm³/s', ''];

/** An axis in the prefix that its largest value is read in. */
function axisOf(label: string, unit: string, low: number, high: number, logarithmic = false): { axis: Axis; by: number } {
  const size = Math.max(Math.abs(low), Math.abs(high));
  const [by, prefix] = WHOLE_UNITS.includes(unit) ? ([1, ''] as const) : (PREFIXES.find(([f]) => size >= f) ?? ([1, ''] as const));
  const said = [label, `${prefix}${unit}`].filter(Boolean).join(', ');
  return { axis: { domain: [low / by, high / by], name: said, logarithmic, say: (v) => String(Number(v.toPrecision(4))) }, by };
}

function upright(curve: Curve): { axis: Axis; by: number } {
  const known = curve.found.filter((v): v is number => v !== null);
  const low = Math.min(...known, 0);
  const high = Math.max(...known, low + 1e-15);
  const found = axisOf('', curve.unit, low, high + (high - low) * 0.08);
  return { ...found, axis: { ...found.axis, name: found.axis.name || curve.label } };
}
