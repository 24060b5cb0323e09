import type { Frame, Schemas } from '../api/client';
import { useSize } from '../ui/useSize';
import { Hatch } from './Hatch';
import { Why } from '../ui/Why';

type Path = Schemas['Path'];
type Place = Schemas['PathPlace'];
type Kind = Place['kind'];

const FLOW_TOP = 30;
const THICKEST = 40;
/** Below this width the words of the places do not fit beside the flow. */
const NARROW = 700;
const TITLE: Record<Kind, string> = { supply: 'Supply', regulator: 'Regulator', motor: 'Motor', blades: 'Blades', air: 'Air' };
/** Where each place begins and where its heat leaves the flow, over the width. */
const AT: Record<Kind, number> = { supply: 0, regulator: 0.17, motor: 0.41, blades: 0.7, air: 0.846 };
const DROP: Record<Kind, number> = { supply: 0, regulator: 0.26, motor: 0.525, blades: 0.82, air: 1 };
const COLOUR: Record<Kind, string> = {
  supply: 'var(--color-flow)',
  regulator: 'var(--color-flow)',
  motor: 'var(--color-flow)',
  blades: 'var(--color-ink)',
  air: 'var(--color-air)',
};

/** Supply → regulator → motor → blades → air as one flow whose thickness is power; losses leave it downwards. */
export function PowerPath({ frame, selected }: { frame: Frame; selected: number }) {
  const [ref, { width }] = useSize();
  const path = frame.paths.find((p) => p.step === selected) ?? frame.paths[frame.paths.length - 1];
  return (
    <section ref={ref} aria-label={spoken(path, frame)} className={`w-full overflow-hidden ${width > 0 && width < NARROW ? '' : 'h-[172px]'}`}>
      {!path && <Unknown frame={frame} />}
      {path && width > 0 && width < NARROW && <Folded path={path} all={frame.paths} width={width} marked={frame.marks.length > 0} />}
      {path && width >= NARROW && <Drawing path={path} all={frame.paths} width={width} marked={frame.marks.length > 0} />}
    </section>
  );
}

/** The flow in words, for those who do not see it. */
function spoken(path: Path | undefined, frame: Frame): string {
  if (!path) return 'Power path: nothing is known yet';
  if (!path.runs) return `Power path, step ${path.step}: ${path.note}`;
  const step = frame.marks.length > 0 ? `step ${path.step}` : 'full speed';
  const told = path.places.map((p) =>
    [`${TITLE[p.kind].toLowerCase()} ${p.name}`.trim(), ...p.values.map((v) => v.text), p.loss?.text ?? ''].filter(Boolean).join(', '),
  );
  return [`Power path, ${step}: ${told[0] ?? ''}`, ...told.slice(1), ...path.places.map((p) => p.warning?.text ?? '')].filter(Boolean).join('; ');
}

function Unknown({ frame }: { frame: Frame }) {
  const text = frame.refused
    ? `Refused: ${frame.refused}.`
    : frame.unsized
      ? `May be regulated by ${frame.unsized}: suits, but is not sized here yet. What is found out of the fan is kept.`
      : `The power path appears once Fenwit knows ${frame.missing.map((m) => m.text).join(', ')}.`;
  return (
    <div className="h-full">
      <div className="mb-3 grid grid-cols-[17fr_24fr_29fr_14.6fr_15.4fr] text-body font-semibold">
        {['Supply', 'Regulator', 'Motor', 'Blades', 'Air'].map((name) => (
          <span key={name}>{name}</span>
        ))}
      </div>
      <div className="h-0 w-full border-t border-dashed border-muted" />
      <p className={`mt-3 ${frame.refused ? 'text-copper' : 'quiet'}`}>{text}</p>
    </div>
  );
}

/** The same where there is no room beside the flow: five columns under it, each with all that is said of its place. */
function Folded({ path, all, width, marked }: { path: Path; all: readonly Path[]; width: number; marked: boolean }) {
  const most = Math.max(...all.flatMap((p) => p.places.map((q) => q.power_w)), 1e-9);
  const thick = (watts: number) => (watts <= 0 ? 0 : Math.max(1.5, (24 * watts) / most));
  const column = width / path.places.length;
  return (
    <div>
      <svg width={width} height={26} aria-hidden="true">
        {path.runs ? (
          path.places.map((p, i) => <rect key={p.kind} x={i * column} width={column} height={thick(p.power_w)} fill={COLOUR[p.kind]} />)
        ) : (
          <line x1={0} x2={width} y1={6} y2={6} stroke="var(--color-muted)" strokeDasharray="5 5" />
        )}
      </svg>
      <div className="grid text-note" style={{ gridTemplateColumns: `repeat(${path.places.length}, minmax(0, 1fr))` }}>
        {path.places.map((place) => (
          <div key={place.kind} className="min-w-0 pr-2">
            <p className="font-semibold break-words">
              {TITLE[place.kind]}
              {place.kind === 'regulator' && place.name && <span className="mono font-medium"> {place.name}</span>}
            </p>
            {place.values.map((value) => (
              <p key={value.text} className="mono leading-tight break-words">
                <Told value={value} step={path.step} explained={path.runs && marked} />
              </p>
            ))}
            {place.loss && (
              <p className="quiet leading-tight">
                <Told value={place.loss} step={path.step} explained={marked} />
              </p>
            )}
            {place.warning && (
              <p className="leading-tight font-semibold text-caution">
                <Told value={{ ...place.warning, text: `△ ${place.warning.text}` }} step={path.step} explained={marked} />
              </p>
            )}
          </div>
        ))}
      </div>
      {!path.runs && (
        <p className="text-copper">
          Step {path.step}: {path.note}
        </p>
      )}
    </div>
  );
}

function Drawing({ path, all, width, marked }: { path: Path; all: readonly Path[]; width: number; marked: boolean }) {
  const places = path.places;
  const most = Math.max(...all.flatMap((p) => p.places.map((q) => q.power_w)), 1e-9);
  // Below a pixel and a half a flow could not be seen at all.
  const thick = (watts: number) => (watts <= 0 ? 0 : Math.max(1.5, (THICKEST * watts) / most));
  // Without a motor's place the regulator's words have its room too, and its heat leaves to the right of them.
  const motor = places.some((p) => p.kind === 'motor');
  const drop = (kind: Kind) => (kind === 'regulator' && !motor ? AT.motor : DROP[kind]) * width;
  // Nor does anything stand left of the blades' words then.
  const left = (kind: Kind) => (kind === 'blades' && !motor ? AT.blades - 0.03 : AT[kind]) * width;
  const begins = (i: number) => (i === 0 ? 0 : drop(places[i - 1]?.kind ?? 'supply'));
  const size = width < 900 ? 'text-note' : 'text-lead';
  return (
    <div className="relative h-full">
      <svg width={width} height={172} className="absolute inset-0" aria-hidden="true">
        {path.runs ? (
          places.map((p, i) => (
            <g key={p.kind}>
              <Band x1={begins(i)} x2={drop(p.kind)} thick={thick(p.power_w)} colour={COLOUR[p.kind]} />
              <Drop x={drop(p.kind)} from={thick(places[i + 1]?.power_w ?? 0)} thick={thick(p.loss_w)} colour={COLOUR[p.kind]} />
            </g>
          ))
        ) : (
          <line x1={0} x2={width} y1={FLOW_TOP + 6} y2={FLOW_TOP + 6} stroke="var(--color-muted)" strokeDasharray="5 5" />
        )}
      </svg>
      {places.map((place, i) => (
        <div
          key={place.kind}
          className="absolute top-0"
          style={{ left: left(place.kind), maxWidth: left(places[i + 1]?.kind ?? 'air') - left(place.kind) - 10 || undefined }}
        >
          <p className="truncate text-body font-semibold">
            {TITLE[place.kind]}
            {place.kind === 'regulator' && place.name && <span className="mono font-medium"> · {place.name}</span>}
          </p>
          <div className={place.kind === 'motor' ? 'mt-[66px]' : 'mt-[58px]'}>
            {place.values.map((value) => (
              <p key={value.text} className={`mono truncate leading-[21px] ${size}`}>
                <Told value={value} step={path.step} explained={path.runs && marked} />
              </p>
            ))}
          </div>
        </div>
      ))}
      {places.map((place, i) => {
        const beside = { left: drop(place.kind) + 12, width: left(places[i + 1]?.kind ?? 'air') - drop(place.kind) - 16 };
        return (
          <div key={place.kind}>
            {place.loss && (
              <p className="quiet absolute text-note leading-tight" style={{ ...beside, top: 77 }}>
                <Told value={place.loss} step={path.step} explained={marked} />
              </p>
            )}
            {place.warning && (
              <p className="absolute text-note leading-[17px] font-semibold text-caution" style={{ ...beside, top: 110 }}>
                <Told value={{ ...place.warning, text: `△ ${place.warning.text}` }} step={path.step} explained={marked} />
              </p>
            )}
          </div>
        );
      })}
      {places.map(
        (place) =>
          place.signal && <Scope key={place.kind} signal={place.signal} left={AT[place.kind] * width} width={(AT.motor - AT[place.kind]) * width - 16} />,
      )}
      {places.map(
        (place) => place.level && <Gauge key={place.kind} level={place.level} left={AT[place.kind] * width} width={(AT.motor - AT[place.kind]) * width - 16} />,
      )}
      {!path.runs && (
        <p className="absolute text-lead text-copper" style={{ left: AT.regulator * width, top: 72 }}>
          Step {path.step}: {path.note}
        </p>
      )}
      {!marked && <p className="quiet absolute bottom-1 right-0 text-note">full speed, nothing in the line</p>}
    </div>
  );
}

/** One period of what the fan is told, to scale, and a little of the next. */
function Scope({ signal, left, width }: { signal: Schemas['Signal']; left: number; width: number }) {
  const period = (width - 4) / 1.25;
  const [high, low] = [4, 26];
  const rise = Math.min(1, Math.max(0, signal.duty)) * period;
  const wave =
    signal.duty >= 1
      ? `M0 ${high} H${width}`
      : signal.duty <= 0
        ? `M0 ${low} H${width}`
        : `M0 ${low} V${high} H${rise} V${low} H${period} V${high} H${Math.min(width, period + rise)}`;
  return (
    <svg
      className="absolute"
      style={{ left, top: 118 }}
      width={width}
      height={48}
      role="img"
      aria-label={`signal: high for ${Math.round(100 * signal.duty)} % of the time, ${signal.high_text}`}
    >
      <path d={wave} fill="none" stroke="var(--color-copper)" strokeWidth={2} />
      <text className="text-note" x={0} y={44} style={{ fill: 'var(--color-muted)' }}>
        {signal.high_text}
      </text>
    </svg>
  );
}

/** A steady voltage that the fan is told, to scale, with the stretches hatched that move nothing. */
function Gauge({ level, left, width }: { level: Schemas['Level']; left: number; width: number }) {
  const [top, high, end] = [8, 14, width - 2];
  const x = (volts: number) => 1 + ((end - 1) * volts) / level.span_v;
  return (
    <svg className="absolute" style={{ left, top: 118 }} width={width} height={48} role="img" aria-label={`control voltage ${level.text}`}>
      <Hatch id="dead-band" />
      <rect x={1} y={top} width={Math.max(0, x(level.volts) - 1)} height={high} fill="var(--color-copper)" opacity={0.35} />
      {level.dead.map(([from, to]) => (
        <rect key={from} x={x(from)} y={top} width={x(to) - x(from)} height={high} fill="url(#dead-band)" />
      ))}
      <rect x={1} y={top} width={end - 1} height={high} fill="none" stroke="var(--color-ink)" />
      <line x1={x(level.volts)} x2={x(level.volts)} y1={top - 5} y2={top + high + 5} stroke="var(--color-copper)" strokeWidth={2.5} />
      <text className="text-note" x={1} y={44} style={{ fill: 'var(--color-muted)' }}>
        0
      </text>
      <text className="text-note" x={end} y={44} textAnchor="end" style={{ fill: 'var(--color-muted)' }}>
        {level.span_v} V
      </text>
    </svg>
  );
}

/** A live value; where an explanation belongs to it, it can be asked why. */
function Told({ value, step, explained }: { value: Schemas['Told']; step: number; explained: boolean }) {
  return value.why && explained ? <Why of={`step:${step}:${value.why}`}>{value.text}</Why> : value.text;
}

function Band({ x1, x2, thick, colour }: { x1: number; x2: number; thick: number; colour: string }) {
  return <rect x={x1} width={x2 - x1} y={FLOW_TOP} height={thick} fill={colour} />;
}

/** Heat leaving the flow downwards, as thick as it is strong, with a rounded inner corner. */
function Drop({ x, from, thick, colour }: { x: number; from: number; thick: number; colour: string }) {
  if (thick <= 0) return null;
  const foot = 46;
  return (
    <path
      d={`M${x - thick} ${FLOW_TOP} H${x} V${FLOW_TOP + from} H${x + 10} Q${x} ${FLOW_TOP + from} ${x} ${FLOW_TOP + from + 10} V${FLOW_TOP + foot} H${x - thick} Z`}
      fill={colour}
    />
  );
}
