import { area, line } from 'd3-shape';
import type { Frame, Schemas } from '../../api/client';
import { Hatch } from '../../instruments/Hatch';
import { nearest, Plot, Pointer, type Inside } from '../../instruments/Plot';
import { useJobInHand } from '../../job/context';

type Reach = Schemas['Reach'];
type Point = Reach['points'][number];

/** Speed over the setting of a method: barred, non-starting and usable values, the steps and a cruder estimate. */
export function ReachPlot({ reach, frame }: { reach: Reach; frame: Frame }) {
  const { selected, onSelect } = useJobInHand();
  const { axis } = reach;
  const [low, high] = span(reach, frame);
  const shown = reach.points.filter((p) => p.at >= low && p.at <= high);
  const top = frame.top_rpm ?? 1;
  const aim = frame.aims.find((a) => a.step === selected);
  const marks = frame.marks.filter((m) => m.at !== null);
  const say = (at: number) => (at * axis.scale).toPrecision(3);
  return (
    <div className="relative h-full min-h-0 w-full">
      <Plot
        x={{ domain: [low * axis.scale, high * axis.scale], name: `${axis.unit} ${axis.name}`, logarithmic: axis.logarithmic, clamp: true }}
        y={{ domain: [0, top], name: 'rpm' }}
        pad={{ top: 18, right: 24, bottom: 40 }}
        label={`Speed over ${axis.unit} ${axis.name}. ${marks.map((m) => `Step ${m.step}, ${m.label}: ${say(m.at ?? 0)} ${axis.unit}, ${m.predicted ? `${Math.round(m.predicted.value)} rpm` : m.verdict}`).join('. ')}`}
      >
        {(inside) => {
          const x = (at: number) => inside.x(at * axis.scale);
          const under =
            inside.pointer === null
              ? null
              : shown[
                  nearest(
                    shown.map((p) => Math.log(p.at)),
                    Math.log(inside.pointer / axis.scale),
                  )
                ];
          const rising = (shown[shown.length - 1]?.speed_rpm ?? 0) >= (shown[0]?.speed_rpm ?? 0);
          return (
            <>
              <Hatch id="plot-hatch" />
              <Closed points={shown} reason={reach.barred_text} x={x} inside={inside} />
              <path d={shade(reach, x, inside)} fill="var(--color-band)" opacity={0.45} />
              <path d={curve(shown, x, inside)} fill="none" stroke="var(--color-ink)" strokeWidth={2.4} />
              {marks.map((m) => (
                <StepOnCurve key={m.step} mark={m} x={x(m.at ?? 0)} inside={inside} on={m.step === selected} rising={rising} onSelect={onSelect} />
              ))}
              {aim && aim.hint_at !== null && aim.hint_at >= low && (
                <circle cx={x(aim.hint_at)} cy={inside.y(aim.wanted.value)} r={6} fill="var(--color-paper)" stroke="var(--color-muted)" strokeWidth={2} />
              )}
              {under && (
                <Pointer
                  at={under.at * axis.scale}
                  inside={inside}
                  y={inside.bottom - 10}
                  text={`${say(under.at)} ${axis.unit} ${under.state === 'ok' ? `${Math.round(under.speed_rpm)} rpm` : under.state === 'barred' ? 'barred' : 'will not start'}`}
                />
              )}
            </>
          );
        }}
      </Plot>
      {aim?.hint_text && (
        <p className="absolute right-5 bottom-[54px] max-w-[70%] bg-paper px-1 text-right text-note">
          <span aria-hidden="true">○ </span>
          {aim.hint_text}
        </p>
      )}
    </div>
  );
}

function curve(points: Point[], x: (at: number) => number, { y }: Inside): string {
  return (
    line<Point>()
      .defined((p) => p.state === 'ok')
      .x((p) => x(p.at))
      .y((p) => y(p.speed_rpm))(points) ?? ''
  );
}

function shade(reach: Reach, x: (at: number) => number, { y }: Inside): string {
  return (
    area<Reach['band'][number]>()
      .x((p) => x(p.at))
      .y0((p) => y(p.low_rpm))
      .y1((p) => y(p.high_rpm))([...reach.band]) ?? ''
  );
}

/** Values that are barred or at which the fan does not start, hatched, with the reason where there is room. */
function Closed({ points, reason, x, inside }: { points: Point[]; reason: string; x: (at: number) => number; inside: Inside }) {
  return stretches(points).map((s) => {
    const wide = x(s.to) - x(s.from);
    const words = s.state === 'barred' ? wrapped(reason, wide - 12) : ['will not', 'start'];
    return (
      <g key={s.from}>
        <rect x={x(s.from)} width={wide} y={inside.top} height={inside.bottom - inside.top} fill="url(#plot-hatch)" opacity={0.55} />
        {wide > 50 &&
          words.map((word, i) => (
            <text
              key={word}
              x={x(s.from) + 6}
              y={inside.top + 18 + 16 * i}
              className="on-paper axis-mark"
              style={{ fill: 'var(--color-caution)', fontWeight: 600 }}
            >
              {word}
            </text>
          ))}
      </g>
    );
  });
}

function StepOnCurve({
  mark,
  x,
  inside,
  on,
  rising,
  onSelect,
}: {
  mark: Frame['marks'][number];
  x: number;
  inside: Inside;
  on: boolean;
  /** Speed rises to the right: what stands right of a point stands below it, clear of the curve. */
  rising: boolean;
  onSelect: (step: number) => void;
}) {
  const colour = on ? 'var(--color-copper)' : 'var(--color-ink)';
  const speed = mark.predicted?.value ?? null;
  const floor = inside.y(0);
  const high = speed === null ? floor - 34 : inside.y(speed);
  const right = x < inside.left + 70;
  return (
    <g onClick={() => onSelect(mark.step)} className="cursor-pointer">
      <path
        d={speed === null ? `M${x} ${high} V${floor}` : `M${inside.left} ${high} H${x} V${floor}`}
        fill="none"
        stroke={colour}
        strokeWidth={on ? 2 : 1.3}
        strokeDasharray={on ? undefined : '2 4'}
      />
      {speed !== null && <circle cx={x} cy={high} r={on ? 7 : 5} fill={colour} />}
      <circle cx={x} cy={high} r={20} fill="transparent" />
      <text
        className="on-paper"
        x={right ? x + 10 : x - 10}
        y={right && rising && speed !== null ? high + 18 : high - 8}
        textAnchor={right ? 'start' : 'end'}
        fontWeight={700}
        style={{ fill: colour }}
      >
        {mark.step} {mark.label}
        {speed === null && (mark.verdict === 'barred' ? ' barred' : ' no start')}
      </text>
    </g>
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

/** The part of the axis that tells something: a little of the region that does not start, and none where nothing changes. */
function span(reach: Reach, frame: Frame): [number, number] {
  const { points } = reach;
  const first = points[0]?.at ?? 1;
  const last = points[points.length - 1]?.at ?? 2;
  const runs = points.filter((p) => p.state !== 'stall');
  const least = runs[0]?.at ?? first;
  const most = runs[runs.length - 1]?.at ?? last;
  if (!reach.axis.logarithmic) return [first, last];
  const full = frame.full?.value ?? Infinity;
  // On the side where the regulator does nothing, half a decade of full speed is enough.
  const slowed = runs.filter((p) => p.state === 'barred' || p.speed_rpm < 0.985 * full);
  const low = least === first && slowed[0] ? Math.max(first, slowed[0].at / 2) : least / 2;
  const high = most === last ? last : Math.min(last, most * 2);
  return [Math.max(first, low), high];
}

function stretches(points: Point[]): { from: number; to: number; state: string }[] {
  const found: { from: number; to: number; state: string }[] = [];
  points.forEach((point, i) => {
    if (point.state === 'ok') return;
    const open = found[found.length - 1];
    const next = points[i + 1]?.at ?? point.at;
    if (open && open.state === point.state && open.to === point.at) open.to = next;
    else found.push({ from: point.at, to: next, state: point.state });
  });
  return found;
}
