import { Dialog } from 'radix-ui';
import type { Shown } from './api';

/** Every merit of every way in one table. */
export function AllNumbers({ shown }: { shown: Shown }) {
  const open = shown.rows.filter((r) => r.live);
  const words: [string, (r: Shown['rows'][number]) => string][] = [
    ['sort', (r) => (r.stepless ? 'stepless' : 'in steps')],
    ['jump', (r) => r.jump],
    ['hottest part', (r) => r.hottest],
    ['hum of its own', (r) => r.hum],
    ['as built', (r) => r.built],
    ['evenness', (r) => r.evenness],
  ];
  const steps = [...new Set(open.flatMap((r) => r.watts.map((w) => w.step)))].sort((a, b) => a - b);
  return (
    <Dialog.Root>
      <Dialog.Trigger className="link-button text-body">all numbers</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-10 bg-ink/30" />
        <Dialog.Content className="panel fixed top-1/2 left-1/2 z-20 max-h-[92vh] w-[1180px] max-w-[97vw] -translate-x-1/2 -translate-y-1/2 overflow-auto p-6 text-body">
          <Dialog.Title className="heading">Every way in numbers</Dialog.Title>
          <Dialog.Description className="quiet pb-2">
            Each at its worst step below full speed. Hum, rise and start are over direct running at full speed, over its rise, and over break-away. Costs and
            boxes by the price list.
          </Dialog.Description>
          <table className="w-full">
            <thead className="text-left">
              <tr>
                <th className="quiet text-note font-normal">merit</th>
                {open.map((r) => (
                  <th key={r.key} className="pl-3">
                    {r.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shown.wishes.map((w) => (
                <tr key={w.key} className="row-line">
                  <td className="quiet py-0.5">{w.merit}</td>
                  {open.map((r) => {
                    const m = r.merits.find((x) => x.key === w.key);
                    return (
                      <td key={r.key} className="mono pl-3">
                        {m?.text}
                        {typeof m?.worst_step === 'number' && <span className="quiet text-note"> at {m.worst_step}</span>}
                      </td>
                    );
                  })}
                </tr>
              ))}
              {steps.map((step) => (
                <tr key={step} className="row-line">
                  <td className="quiet py-0.5">step {step}, mains and regulator</td>
                  {open.map((r) => {
                    const w = r.watts.find((x) => x.step === step);
                    return (
                      <td key={r.key} className="mono pl-3">
                        {w ? `${w.text}, ${w.regulator_text}, ${w.amps_text}` : 'not given'}
                      </td>
                    );
                  })}
                </tr>
              ))}
              {words.map(([name, say]) => (
                <tr key={name} className="row-line align-top">
                  <td className="quiet py-0.5">{name}</td>
                  {open.map((r) => (
                    <td key={r.key} className="pl-3 text-note">
                      {say(r)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <Dialog.Close className="button mt-4">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
