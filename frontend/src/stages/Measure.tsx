import { Popover } from 'radix-ui';
import type { Problem, Schemas } from '../api/client';
import { readingEdit, useEdits } from '../api/save';
import type { StageProps } from '../pages/JobPage';
import { Cautions } from '../ui/Cautions';
import { ValueField } from '../ui/ValueField';
import { Why } from '../ui/Why';
import { useWho } from '../ui/who';

type Wanted = Schemas['Wanted'];

/** Full-speed and dead readings, and what the model says of them. */
export function Measure({ page, frame, onClash }: StageProps) {
  const { who } = useWho();
  const jobId = page.job.id;

  const save = useEdits(jobId, onClash);

  const take = (asked: Wanted, text: string): Promise<Problem | null> =>
    save(readingEdit(jobId, asked.label, text, asked.quantity, null, who, asked.reading_id));

  const live = page.wanted_readings.filter((w) => !w.dead);
  const dead = page.wanted_readings.filter((w) => w.dead);

  function toNext(after: string) {
    const open = [...dead, ...live].filter((w) => !w.gated_by || w.text);
    const at = open.findIndex((w) => w.quantity === after);
    const next = open[at + 1];
    if (next) document.getElementById(`reading-${next.quantity}`)?.focus();
  }

  const field = (asked: Wanted) => (
    <ValueField
      key={asked.quantity}
      inputId={`reading-${asked.quantity}`}
      label={asked.label}
      text={asked.text}
      hint={asked.hint}
      disabled={asked.gated_by !== null && asked.text === ''}
      onCommit={(text) => take(asked, text)}
      onEnter={() => toNext(asked.quantity)}
    />
  );
  return (
    <div className="grid grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)] gap-10 max-[1000px]:grid-cols-1">
      <section aria-label="Readings">
        <div className="mb-3 empty:hidden">
          <Cautions page={page} stage="measure" part="first" />
        </div>
        <h2 className="heading mb-1">Power off, isolated, capacitor empty</h2>
        <div className="grid grid-cols-3 gap-x-6">{dead.map(field)}</div>
        <h2 className="heading mt-3 mb-1">Running at full speed, nothing in the line</h2>
        <div className="grid grid-cols-3 gap-x-6 gap-y-1">{live.map(field)}</div>
        <div className="mt-4">
          <Cautions page={page} stage="measure" part="rest" />
        </div>
      </section>
      <section aria-label="What the model says">
        <h2 className="heading mb-1">What the model says of them</h2>
        {frame.checks.length === 0 ? (
          <p className="quiet">
            {frame.missing.length > 0
              ? `Still needed: ${frame.missing.map((m) => m.text).join(', ')}.`
              : 'Amps, watts and ohms tell how big this motor is; each one narrows the bands.'}
          </p>
        ) : (
          <table className="w-full">
            <thead className="quiet text-left text-[13px]">
              <tr>
                <th className="font-normal">reading</th>
                <th className="pr-2 text-right font-normal">read</th>
                <th className="text-right font-normal">model</th>
              </tr>
            </thead>
            <tbody>
              {frame.checks.map((c) => (
                <tr key={c.quantity} className="row-line">
                  <td className="py-1.5">{NAMES[c.quantity] ?? c.quantity}</td>
                  <td className="mono pr-2 text-right">{c.read}</td>
                  <td className={`mono text-right ${c.odd ? 'font-bold text-copper' : ''}`}>
                    <Why of={`check:${c.quantity}`}>{c.expected}</Why>
                    {c.odd && <span className="block font-sans text-[13px] font-normal">does not fit the rest: read it again</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {frame.full && (
          <p className="mt-3">
            Full speed{' '}
            <Why of="full" className="mono text-[18px]">
              {frame.full.number}
            </Why>{' '}
            rpm; the field turns at{' '}
            <Why of="synchronous" className="mono">
              {frame.synchronous_rpm}
            </Why>{' '}
            rpm.
          </p>
        )}
        {frame.marks.length > 0 && (
          <p className="quiet mt-1 text-[14px]">
            Bars on the staff show how far nine in ten motors with these readings would differ. A reading typed here narrows them.
          </p>
        )}
        {frame.assumptions.length > 0 && (
          <Popover.Root>
            <Popover.Trigger className="link-button mt-2">What is assumed for the rest ({frame.assumptions.length})</Popover.Trigger>
            <Popover.Portal>
              <Popover.Content side="top" align="start" className="z-10 w-[460px] max-w-[92vw] border border-ink bg-paper p-4 text-[14px]">
                <ul className="list-disc space-y-1 pl-4">
                  {frame.assumptions.map((a) => (
                    <li key={a}>{a}</li>
                  ))}
                </ul>
                {frame.lost_draws > 0 && <p className="quiet mt-2">{frame.lost_draws} of the sampled motors would not run and are left out.</p>}
              </Popover.Content>
            </Popover.Portal>
          </Popover.Root>
        )}
      </section>
    </div>
  );
}

const NAMES: Record<string, string> = {
  line_current_a: 'line amps',
  input_power_w: 'input watts',
  capacitor_voltage_v: 'volts across run capacitor',
  main_resistance_ohm: 'main winding',
  auxiliary_resistance_ohm: 'auxiliary winding',
};
