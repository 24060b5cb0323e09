import type { Frame, Schemas } from '../api/client';
import { useSize } from '../ui/useSize';
import { Why } from '../ui/Why';

type Path = Schemas['Path'];

const FLOW_TOP = 30;
const THICKEST = 40;

interface Place {
  title: string;
  name?: string;
  lines: readonly string[];
}

/** Supply → regulator → motor → blades → air as one flow whose thickness is power; losses leave it downwards. */
export function PowerPath({ frame, selected }: { frame: Frame; selected: number }) {
  const [ref, { width }] = useSize();
  const path = frame.paths.find((p) => p.step === selected) ?? frame.paths[frame.paths.length - 1];
  return (
    <section ref={ref} aria-label={spoken(path, frame)} className="h-[172px] w-full overflow-hidden">
      {!path && <Unknown frame={frame} />}
      {path && width > 0 && <Drawing path={path} all={frame.paths} width={width} marked={frame.marks.length > 0} />}
    </section>
  );
}

/** The flow in words, for those who do not see it. */
function spoken(path: Path | undefined, frame: Frame): string {
  if (!path) return 'Power path: nothing is known yet';
  if (!path.runs) return `Power path, step ${path.step}: ${path.note}`;
  const step = frame.marks.length > 0 ? `step ${path.step}` : 'full speed';
  return [
    `Power path, ${step}: supply ${path.supply.join(', ')}`,
    `regulator ${path.regulator_name}, ${path.regulator.join(', ')}`,
    `motor ${path.motor.join(', ')}, ${path.motor_loss_text}`,
    `blades ${path.blades.join(', ')}`,
    `air ${path.air.join(', ')}`,
    path.warning,
  ]
    .filter(Boolean)
    .join('; ');
}

function Unknown({ frame }: { frame: Frame }) {
  const text = frame.refused
    ? `Refused: ${frame.refused}.`
    : `The power path appears once Fenwit knows ${frame.missing.map((m) => m.text).join(', ')}.`;
  return (
    <div className="h-full">
      <div className="mb-3 grid grid-cols-[17fr_24fr_29fr_14.6fr_15.4fr] text-[14px] font-semibold">
        {['Supply', 'Regulator', 'Motor', 'Blades', 'Air'].map((name) => (
          <span key={name}>{name}</span>
        ))}
      </div>
      <div className="h-0 w-full border-t border-dashed border-muted" />
      <p className={`mt-3 ${frame.refused ? 'text-copper' : 'quiet'}`}>{text}</p>
    </div>
  );
}

function Drawing({ path, all, width, marked }: { path: Path; all: readonly Path[]; width: number; marked: boolean }) {
  const at = { supply: 0, regulator: 0.17 * width, motor: 0.41 * width, blades: 0.7 * width, air: 0.846 * width };
  const most = Math.max(...all.map((p) => p.supply_w), 1e-9);
  // Below a pixel and a half a flow could not be seen at all.
  const thick = (watts: number) => (watts <= 0 ? 0 : Math.max(1.5, (THICKEST * watts) / most));
  const toMotor = path.supply_w - path.regulator_loss_w;
  const toBlades = toMotor - path.motor_loss_w;
  const places: [number, Place][] = [
    [at.supply, { title: 'Supply', lines: path.supply }],
    [at.regulator, { title: 'Regulator', name: path.regulator_name, lines: path.regulator }],
    [at.motor, { title: 'Motor', lines: path.motor }],
    [at.blades, { title: 'Blades', lines: path.blades }],
    [at.air, { title: 'Air', lines: path.air }],
  ];
  const motorDrop = at.motor + 0.115 * width;
  const bladesDrop = at.blades + 0.12 * width;
  const resistorDrop = at.regulator + 0.09 * width;
  return (
    <div className="relative h-full">
      <svg width={width} height={172} className="absolute inset-0" aria-hidden="true">
        {path.runs ? (
          <>
            <Band x1={at.supply} x2={resistorDrop} thick={thick(path.supply_w)} colour="var(--color-flow)" />
            <Band x1={resistorDrop} x2={motorDrop} thick={thick(toMotor)} colour="var(--color-flow)" />
            <Band x1={motorDrop} x2={bladesDrop} thick={thick(toBlades)} colour="var(--color-ink)" />
            <Band x1={bladesDrop} x2={width} thick={thick(path.air_w)} colour="var(--color-air)" />
            <Drop x={resistorDrop} from={thick(toMotor)} thick={thick(path.regulator_loss_w)} colour="var(--color-flow)" />
            <Drop x={motorDrop} from={thick(toBlades)} thick={thick(path.motor_loss_w)} colour="var(--color-flow)" />
            <Drop x={bladesDrop} from={thick(path.air_w)} thick={thick(path.friction_w)} colour="var(--color-ink)" />
          </>
        ) : (
          <line x1={0} x2={width} y1={FLOW_TOP + 6} y2={FLOW_TOP + 6} stroke="var(--color-muted)" strokeDasharray="5 5" />
        )}
      </svg>
      {places.map(([x, place], i) => (
        <div key={i} className="absolute top-0" style={{ left: x, maxWidth: (places[i + 1]?.[0] ?? width) - x - 10 }}>
          <p className="truncate text-[14px] font-semibold">
            {place.title}
            {place.name && <span className="mono font-medium"> · {place.name}</span>}
          </p>
          <div className={i === 2 ? 'mt-[66px]' : 'mt-[58px]'}>
            {place.lines.map((line, k) => (
              <p key={line} className={`mono truncate leading-[21px] ${width < 900 ? 'text-[12.5px]' : 'text-[15px]'}`}>
                {explains(place.title, k) && path.runs && marked ? (
                  <Why of={`step:${path.step}:${explains(place.title, k)}`}>{line}</Why>
                ) : (
                  line
                )}
              </p>
            ))}
          </div>
        </div>
      ))}
      {path.runs && (
        <p className="quiet absolute text-[13px] leading-tight" style={{ left: motorDrop + 12, top: 77, width: at.blades - motorDrop - 16 }}>
          {marked ? <Why of={`step:${path.step}:motor-heat`}>{path.motor_loss_text}</Why> : path.motor_loss_text}
        </p>
      )}
      {path.warning && (
        <p className="absolute text-[13px] leading-[17px] font-semibold text-caution" style={{ left: motorDrop + 12, top: 110, width: at.blades - motorDrop - 20 }}>
          {marked ? <Why of={`step:${path.step}:${path.warning.includes('rise') ? 'rise' : 'motor-volts'}`}>△ {path.warning}</Why> : `△ ${path.warning}`}
        </p>
      )}
      {!path.runs && (
        <p className="absolute text-[15px] text-copper" style={{ left: at.regulator, top: 72 }}>
          Step {path.step}: {path.note}
        </p>
      )}
      {!marked && <p className="quiet absolute bottom-1 right-0 text-[13px]">full speed, nothing in the line</p>}
    </div>
  );
}

/** Which explanation belongs to a line below a place of the path. */
const EXPLAINED: Record<string, (string | null)[]> = {
  Supply: [null, 'watts', 'power-factor'],
  Regulator: ['regulator-volts', 'regulator-heat', 'distortion'],
  Motor: ['motor-volts', 'amps', 'slip'],
  Blades: ['speed', 'torque'],
  Air: ['flow', 'noise'],
};

const explains = (title: string, line: number) => EXPLAINED[title.split(' ')[0] ?? '']?.[line] ?? null;

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
