import { area, line } from 'd3-shape';
import type { Schemas } from '../../api/client';
import { nearest, Plot, Pointer, type Inside } from '../../instruments/Plot';

type Torque = Schemas['TorquePlot'];

interface Props {
  plot: Torque;
  selected: number;
  onSelect: (step: number) => void;
}

/** Motor torque at every step and the fan's torque over speed, with their bands; they meet where the fan runs. */
export function TorquePlot({ plot, selected, onSelect }: Props) {
  const speeds = plot.speed_rpm;
  const shown = plot.motors.filter((m) => m.step === 0 || m.step === selected || plot.motors.length < 6);
  // The fan sets the height: what the motor could give far above it tells nothing here.
  const fan = Math.max(...plot.points.map((p) => p.torque_nm), 1e-6);
  const top = Math.min(Math.max(...shown.flatMap((m) => [...m.high_nm])), 2.2 * fan);
  const active = plot.motors.find((m) => m.step === selected) ?? plot.motors[0];
  return (
    <Plot
      className="min-h-[240px]"
      pad={{ right: 66, bottom: 34 }}
      label={`Torque over speed. ${plot.points.map((p) => `${p.label}: ${p.text}, ${p.torque_nm.toPrecision(3)} newton metres`).join('. ')}`}
      x={{ domain: [0, speeds[speeds.length - 1] ?? 1], name: 'rpm' }}
      y={{ domain: [0, top], name: 'N·m', count: 4, clamp: true }}
    >
      {(inside) => {
        const under = inside.pointer === null ? null : nearest(speeds, inside.pointer);
        return (
          <>
            <Fan plot={plot} inside={inside} />
            {shown.map((m) => (
              <Motor key={m.label} curve={m} speeds={speeds} inside={inside} on={m.step === selected} onSelect={onSelect} />
            ))}
            {plot.points
              .filter((p) => shown.some((m) => m.step === p.step))
              .map((p) => (
                <Meeting key={p.label} point={p} inside={inside} on={p.step === selected} />
              ))}
            {under !== null && active && (
              <Pointer
                at={speeds[under] ?? 0}
                inside={inside}
                y={inside.top + 12}
                text={`${Math.round(speeds[under] ?? 0)} rpm: ${active.label} ${(active.torque_nm[under] ?? 0).toPrecision(2)}, fan ${(plot.load.torque_nm[under] ?? 0).toPrecision(2)} N·m`}
              />
            )}
          </>
        );
      }}
    </Plot>
  );
}

const along = (speeds: readonly number[], values: readonly number[], { x, y }: Inside) =>
  line<number>()
    .x((_, i) => x(speeds[i] ?? 0))
    .y(y)([...values]) ?? '';

const band = (speeds: readonly number[], curve: Schemas['Curve'], { x, y }: Inside) =>
  area<number>()
    .x((_, i) => x(speeds[i] ?? 0))
    .y0((_, i) => y(curve.low_nm[i] ?? 0))
    .y1((_, i) => y(curve.high_nm[i] ?? 0))([...curve.torque_nm]) ?? '';

function Fan({ plot, inside }: { plot: Torque; inside: Inside }) {
  const speeds = plot.speed_rpm;
  const last = speeds.length - 1;
  return (
    <>
      <path d={band(speeds, plot.load, inside)} fill="var(--color-air)" opacity={0.2} />
      <path d={along(speeds, plot.load.torque_nm, inside)} fill="none" stroke="var(--color-air)" strokeWidth={2.2} />
      <text
        className="on-paper text-note"
        x={inside.x(speeds[last] ?? 1) + 6}
        y={inside.y(plot.load.torque_nm[last] ?? 0) + 4}
        style={{ fill: 'var(--color-air)' }}
      >
        fan
      </text>
    </>
  );
}

interface MotorProps {
  curve: Torque['motors'][number];
  speeds: readonly number[];
  inside: Inside;
  on: boolean;
  onSelect: (step: number) => void;
}

function Motor({ curve, speeds, inside, on, onSelect }: MotorProps) {
  const colour = on ? 'var(--color-copper)' : 'var(--color-ink)';
  return (
    <g onClick={() => curve.step !== null && curve.step !== undefined && curve.step > 0 && onSelect(curve.step)}>
      {(on || curve.step === 0) && <path d={band(speeds, curve, inside)} fill="var(--color-flow)" opacity={on ? 0.35 : 0.18} />}
      <path d={along(speeds, curve.torque_nm, inside)} fill="none" stroke={colour} strokeWidth={on ? 2.4 : 1.3} />
      {/* Each curve is named where it leaves the plot at rest, or at its height there. */}
      <text className="on-paper text-note" x={inside.left + 6} y={inside.y(curve.torque_nm[0] ?? 0) - 5} fontWeight={on ? 700 : 400} style={{ fill: colour }}>
        {curve.label}
      </text>
    </g>
  );
}

function Meeting({ point, inside, on }: { point: Torque['points'][number]; inside: Inside; on: boolean }) {
  const { x, y } = inside;
  const colour = on ? 'var(--color-copper)' : 'var(--color-ink)';
  const at = y(point.torque_nm);
  return (
    <g>
      <line x1={x(point.low_rpm)} x2={x(point.high_rpm)} y1={at} y2={at} stroke={colour} strokeWidth={5} opacity={0.5} />
      <circle cx={x(point.speed_rpm)} cy={at} r={on ? 6 : 4.5} fill={colour} />
    </g>
  );
}
