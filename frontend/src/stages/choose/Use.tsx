import { Popover } from 'radix-ui';
import type { Problem, Schemas } from '../../api/client';
import { ValueField } from '../../ui/ValueField';
import type { Shown } from './api';

type Edit = Schemas['ChoosingEdit'];

interface Props {
  shown: Shown;
  save: (edit: Edit) => Promise<Problem | null>;
}

/** How the fan is used: hours a day at each step, days a year; and the bands and prices that the order goes by. */
export function Use({ shown, save }: Props) {
  return (
    <Popover.Root>
      <Popover.Trigger className="link-button text-body">hours, bands and prices</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          collisionPadding={12}
          className="panel z-20 max-h-[min(76vh,var(--radix-popover-content-available-height))] w-[560px] max-w-[94vw] space-y-3 overflow-auto p-5 text-body"
        >
          <h3 className="heading">How it is used</h3>
          <div className="grid grid-cols-4 gap-4">
            {shown.hours.map((h, i) => (
              <ValueField
                key={i}
                label={`h a day, step ${i + 1}`}
                text={h}
                onCommit={(text) => save({ hours: shown.hours.map((own, k) => (k === i ? text : own)) })}
              />
            ))}
            <ValueField label="days a year" text={shown.days} onCommit={(days) => save({ days })} />
          </div>
          <h3 className="heading">Alike within</h3>
          <p className="quiet text-note">Of the best of what is left; trade judgement, empty brings back what is usual.</p>
          <div className="grid grid-cols-3 gap-x-5">
            {shown.wishes.map((w) => (
              <ValueField
                key={w.key}
                label={w.merit}
                text={w.usual ? '' : w.band_text}
                hint={w.band_text}
                onCommit={(text) => save({ bands: { [w.key]: text } })}
              />
            ))}
          </div>
          <h3 className="heading">Price list</h3>
          <p className="quiet text-note">Cost in any money, and the room a part takes in litres; trade judgement.</p>
          <table className="w-full">
            <tbody>
              {shown.prices.map((p) => (
                <tr key={p.key} className="row-line">
                  <td>{p.name}</td>
                  <td className="w-28">
                    <ValueField
                      bare
                      label={`cost of ${p.name}`}
                      text={String(p.cost)}
                      onCommit={(cost) => save({ prices: { [p.key]: { cost, litres: cost ? String(p.litres) : '' } } })}
                    />
                  </td>
                  <td className="w-28">
                    <ValueField
                      bare
                      label={`litres of ${p.name}`}
                      text={String(p.litres)}
                      onCommit={(litres) => save({ prices: { [p.key]: { litres, cost: litres ? String(p.cost) : '' } } })}
                    />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Popover.Close className="button">Close</Popover.Close>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
