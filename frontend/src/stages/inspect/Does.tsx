import { area, line } from 'd3-shape';
import { Plot, Pointer, nearest, type Inside } from '../../instruments/Plot';
import { useJobInHand } from '../../job/context';
import { ValueField } from '../../ui/ValueField';
import { SpotTable } from './SpotTable';
import type { Save, Shown, Spot, Typed } from './api';

/** What it does with this fan, and with a lamp in the fan's place, at every place of its knob or switch. */
export function Does({ shown, typed, save }: { shown: Shown; typed: Typed; save: Save }) {
  const fan = !shown.fan_missing;
  const { page } = useJobInHand();
  const jobId = page.job.id;
  // The place in the middle of those at which the fan runs.
  const running = shown.spots.filter((s) => s.speed);
  const middle = running[Math.floor(running.length / 2)];
  if (shown.spots.length === 0) return <p className="quiet">{shown.refused || 'Type its parts first.'}</p>;
  return (
    <div className="space-y-2">
      {!fan && <p className="text-caution">Speeds are told once more is known of {shown.fan_missing}.</p>}
      <div className="grid grid-cols-[minmax(0,1fr)_230px] gap-6 max-[900px]:grid-cols-1">
        {shown.stepless && fan ? (
          <div className="h-[220px]">
            <Curve shown={shown} />
          </div>
        ) : (
          <SpotTable spots={shown.spots} stepless={shown.stepless} fan={fan} label="What it does" />
        )}
        <div className="space-y-2 text-body">
          <ValueField label="lamp in the fan's place" text={typed.lamp} hint="75 W" onCommit={(lamp) => save({ lamp }, lamp)} />
          <p className="quiet text-note">A filament lamp on the mains’ volts; LED lamps show nothing of the kind.</p>
          <p>
            <a className="link-button" href={`/api/jobs/${jobId}/inspect.cir?at=${middle?.at ?? 0}`} download>
              SPICE netlist
            </a>{' '}
            <span className="quiet text-note">of {middle?.name}, for a simulator</span>
          </p>
          {shown.unseen.length > 0 && <p className="text-note">Not looked at yet: {shown.unseen.join(', ')}.</p>}
          {shown.turns && <p className="text-note first-letter:uppercase">{shown.turns}.</p>}
          {shown.narrows && (
            <p className="text-note">
              Reading the <b>{shown.narrows}</b> would narrow this most.
            </p>
          )}
        </div>
      </div>
      {shown.stepless && fan && <SpotTable spots={shown.spots} stepless fan label="What it does" />}
    </div>
  );
}

const speedOf = (s: Spot) => s.speed?.value ?? 0;

/** Speed with its band and light of the lamp over the travel. */
function Curve({ shown }: { shown: Shown }) {
  const spots = shown.spots;
  const knob = spots.length > 0 && (spots[spots.length - 1]?.at ?? 0) <= 1;
  const at = (s: Spot) => (knob ? 100 * s.at : s.at);
  const first = spots[0];
  const last = spots[spots.length - 1];
  if (!first || !last) return null;
  const top = Math.max(...spots.map((s) => s.speed?.high ?? speedOf(s)), shown.full?.value ?? 1);
  return (
    <Plot
      x={{ domain: [at(first), at(last)], name: knob ? '% turned back from the fast end' : '° firing angle' }}
      y={{ domain: [0, top * 1.05], name: 'rpm' }}
      right={{ domain: [0, 105], name: '% light' }}
      pad={{ right: 52 }}
      label={`Speed over the travel: ${spots.map((s) => `${s.name}: ${s.speed ? s.speed.number : 'stands'}`).join(', ')}`}
    >
      {(inside: Inside) => {
        const near = inside.pointer === null ? null : spots[nearest(spots.map(at), inside.pointer)];
        const band = area<Spot>()
          .x((s) => inside.x(at(s)))
          .y0((s) => inside.y(s.speed?.low ?? speedOf(s)))
          .y1((s) => inside.y(s.speed?.high ?? speedOf(s)));
        const speed = line<Spot>()
          .x((s) => inside.x(at(s)))
          .y((s) => inside.y(speedOf(s)));
        const light = line<Spot>()
          .x((s) => inside.x(at(s)))
          .y((s) => inside.right(100 * s.light));
        const here = spots[Math.max(1, Math.floor(spots.length / 3))] ?? first;
        return (
          <>
            <path d={band([...spots]) ?? ''} fill="var(--color-band)" opacity={0.45} />
            <path d={light([...spots]) ?? ''} fill="none" stroke="var(--color-flow)" strokeWidth={2} strokeDasharray="5 4" />
            <path d={speed([...spots]) ?? ''} fill="none" stroke="var(--color-ink)" strokeWidth={2.4} />
            <text x={inside.x(at(here))} y={inside.y(speedOf(here)) - 8} className="axis-mark on-paper">
              this fan
            </text>
            <text x={inside.x(at(here)) - 8} y={inside.right(100 * here.light) + 18} textAnchor="end" className="axis-mark on-paper">
              lamp
            </text>
            {near && (
              <Pointer
                at={at(near)}
                inside={inside}
                y={inside.bottom - 10}
                text={`${near.name}: ${near.speed ? `${near.speed.number} rpm` : 'stands'}, lamp ${near.light_text}`}
              />
            )}
          </>
        );
      }}
    </Plot>
  );
}
