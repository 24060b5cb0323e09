import { line } from 'd3-shape';
import { nearest, Plot, Pointer } from '../../instruments/Plot';
import type { LoopShown } from './api';

/** What is held and what its sensor says, with the fan's speed under it, over a move of the damper. */
export function LoopPlot({ shown }: { shown: LoopShown }) {
  const times = shown.time_s;
  const end = times[times.length - 1] ?? 1;
  const values = [...shown.held.values, ...shown.sensed.values].filter((v): v is number => v !== null);
  const top = Math.max(...values, shown.set_point);
  const low = Math.min(...values, shown.set_point);
  const room = Math.max(0.05 * top, 0.15 * (top - low));
  const speeds = shown.speed.values.filter((v): v is number => v !== null);
  const x = { domain: [0, end] as const, name: 's' };
  return (
    <div className="grid h-full grid-rows-[minmax(0,1.5fr)_minmax(0,1fr)]">
      <Plot
        x={{ ...x, name: '' }}
        y={{ domain: [Math.max(0, low - room), top + room], name: shown.held.unit }}
        pad={{ bottom: 22 }}
        label={`What is held over ${Math.round(end)} seconds`}
      >
        {(inside) => (
          <>
            <Moves shown={shown} inside={inside} words />
            <line
              x1={inside.left}
              x2={inside.end}
              y1={inside.y(shown.set_point)}
              y2={inside.y(shown.set_point)}
              stroke="var(--color-ink)"
              strokeDasharray="6 4"
            />
            <text className="axis-mark on-paper" x={inside.end - 4} y={inside.y(shown.set_point) - 5} textAnchor="end">
              set point
            </text>
            <path d={path(times, shown.sensed.values, inside)} fill="none" stroke="var(--color-muted)" strokeWidth={1.4} strokeDasharray="3 3" />
            <path d={path(times, shown.held.values, inside)} fill="none" stroke="var(--color-air)" strokeWidth={2.4} />
            {inside.pointer !== null && (
              <Pointer
                at={times[nearest(times, inside.pointer)] ?? 0}
                inside={inside}
                y={inside.top + 12}
                text={`${said(shown.held.values[nearest(times, inside.pointer)])} ${shown.held.unit}, sensor ${said(shown.sensed.values[nearest(times, inside.pointer)])}`}
              />
            )}
          </>
        )}
      </Plot>
      <Plot x={x} y={{ domain: [0, Math.max(...speeds) * 1.1], name: 'rpm', count: 3 }} label="Speed of the fan">
        {(inside) => (
          <>
            <Moves shown={shown} inside={inside} />
            <path d={path(times, shown.speed.values, inside)} fill="none" stroke="var(--color-copper)" strokeWidth={2.2} />
            {inside.pointer !== null && (
              <Pointer
                at={times[nearest(times, inside.pointer)] ?? 0}
                inside={inside}
                y={inside.top + 12}
                text={`${said(shown.speed.values[nearest(times, inside.pointer)])} rpm at ${said(times[nearest(times, inside.pointer)])} s`}
              />
            )}
          </>
        )}
      </Plot>
    </div>
  );
}

interface Where {
  x: (v: number) => number;
  y: (v: number) => number;
  top: number;
  bottom: number;
}

function Moves({ shown, inside, words = false }: { shown: LoopShown; inside: Where; words?: boolean }) {
  return shown.moves_s.map((t, i) => (
    <g key={t}>
      <line x1={inside.x(t)} x2={inside.x(t)} y1={inside.top} y2={inside.bottom} stroke="var(--color-rule)" strokeWidth={2} />
      {words && (
        <text className="axis-mark on-paper" x={inside.x(t) + 5} y={inside.bottom - 6}>
          {i === 0 ? 'damper moves' : 'and back'}
        </text>
      )}
    </g>
  ));
}

const said = (value: number | null | undefined) => (value === null || value === undefined ? '–' : Math.abs(value) >= 100 ? value.toFixed(0) : value.toFixed(1));

export function path(at: readonly number[], values: readonly (number | null)[], inside: Pick<Where, 'x' | 'y'>): string {
  return (
    line<number | null>()
      .defined((v) => v !== null)
      .x((_, i) => inside.x(at[i] ?? 0))
      .y((v) => inside.y(v ?? 0))([...values]) ?? ''
  );
}
