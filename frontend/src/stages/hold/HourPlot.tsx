import { nearest, Plot, Pointer } from '../../instruments/Plot';
import type { CoolingShown } from './api';
import { path } from './LoopPlot';

const TONES = ['var(--color-copper)', 'var(--color-ink)', 'var(--color-muted)', 'var(--color-air)'];

/** Temperatures and the fan's speed over the time of the load; where the fan stands its line is left out. */
export function HourPlot({ shown, each }: { shown: CoolingShown; each: boolean }) {
  const times = shown.time_s.map((t) => t / 60);
  const end = times[times.length - 1] ?? 60;
  const lines = shown.sinks.map((s) => (each && s.alone ? s.alone : s.shared));
  const temps = lines.flatMap((l) => l.values).filter((v): v is number => v !== null);
  const rpm = shown.speed.values.filter((v): v is number => v !== null);
  const watts = shown.power.values.filter((v): v is number => v !== null);
  const x = { domain: [0, end] as const, name: 'min' };
  const low = Math.floor(Math.min(...temps) / 5) * 5;
  const high = Math.ceil(Math.max(...temps) / 5) * 5;
  const value = (v: number | null | undefined, digits = 1) => (v === null || v === undefined ? 'off' : v.toFixed(digits));
  return (
    <div className="grid h-full grid-rows-[minmax(0,1.4fr)_minmax(0,1fr)]">
      <Plot
        x={{ ...x, name: '' }}
        y={{ domain: [low, high], name: '°C', count: 4 }}
        right={{
          domain: [0, Math.max(...watts, 1) * 3],
          name: 'W',
          ticks: [0, Math.max(...watts, 1)],
          say: (v) => (v === 0 ? '0' : v.toFixed(v < 10 ? 1 : 0)),
        }}
        pad={{ bottom: 22, right: 48 }}
        label="Temperature of each sink over the time of its load"
      >
        {(inside) => (
          <>
            <path d={`${path(times, shown.power.values, { x: inside.x, y: inside.right })}`} fill="none" stroke="var(--color-muted)" strokeWidth={1.2} />
            {lines.map((l, i) => (
              <path key={shown.sinks[i]?.name} d={path(times, l.values, inside)} fill="none" stroke={TONES[i % TONES.length]} strokeWidth={2.2} />
            ))}
            {lines.length > 1 &&
              lines.map((l, i) => (
                <text
                  key={shown.sinks[i]?.name}
                  className="axis-mark on-paper"
                  x={inside.end - 6}
                  y={inside.y(l.values[l.values.length - 1] ?? low) - 5}
                  textAnchor="end"
                  style={{ fill: TONES[i % TONES.length] }}
                >
                  {shown.sinks[i]?.name}
                </text>
              ))}
            {inside.pointer !== null && (
              <Pointer
                at={times[nearest(times, inside.pointer)] ?? 0}
                inside={inside}
                y={inside.top + 12}
                text={`${lines.map((l) => value(l.values[nearest(times, inside.pointer ?? 0)])).join(', ')} °C`}
              />
            )}
          </>
        )}
      </Plot>
      <Plot
        x={x}
        y={{ domain: [0, Math.max(...rpm, 1) * 1.15], name: 'rpm', count: 3 }}
        pad={{ right: 48 }}
        label="Speed of the fan; silent where nothing is drawn"
      >
        {(inside) => (
          <>
            <path d={path(times, shown.speed.values, inside)} fill="none" stroke="var(--color-air)" strokeWidth={2.4} />
            {rpm.length === 0 && (
              <text className="axis-mark" x={inside.left + 10} y={(inside.top + inside.bottom) / 2}>
                silent all the time
              </text>
            )}
            {inside.pointer !== null && (
              <Pointer
                at={times[nearest(times, inside.pointer)] ?? 0}
                inside={inside}
                y={inside.top + 12}
                text={`${value(shown.speed.values[nearest(times, inside.pointer)], 0)}${shown.speed.values[nearest(times, inside.pointer)] === null ? '' : ' rpm'} at ${value(times[nearest(times, inside.pointer)])} min`}
              />
            )}
          </>
        )}
      </Plot>
    </div>
  );
}
