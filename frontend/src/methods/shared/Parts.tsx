import { Popover } from 'radix-ui';
import type { ReactNode } from 'react';
import type { Frame, Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Bar } from '../../ui/Bar';
import { Why } from '../../ui/Why';

export type PartRow = Schemas['PartRow'];

interface Props {
  frame: Frame;
  /** What is said while there are none. */
  empty: string;
  /** What of a part is typed here. */
  fields: (part: PartRow) => ReactNode;
}

/** Every part of the regulator with the burden nearest to its limit; each opens to be read and edited. */
export function Parts({ frame, empty, fields }: Props) {
  const { page, draft } = useJobInHand();
  if (frame.parts.length === 0) return <p className="quiet pt-3">{empty}</p>;
  const tried = Boolean(draft?.design);
  return (
    <ul aria-label="Parts">
      {frame.parts.map((part) => {
        const worst = part.stresses[part.worst];
        const aside = page.aside.find((a) => a.part_id === part.shelf_id);
        return (
          <li
            key={part.name}
            className="grid grid-cols-[44px_minmax(0,1.5fr)_116px_minmax(70px,1fr)_140px_minmax(0,1.1fr)] items-center gap-3 border-b border-rule text-body max-[1100px]:grid-cols-[44px_minmax(0,1.5fr)_60px_140px_minmax(0,1fr)]"
          >
            {tried ? (
              <span className="flex min-h-[34px] items-center font-bold">{part.name}</span>
            ) : (
              <Opened part={part}>{part.editable && fields(part)}</Opened>
            )}
            <span className={`min-w-0 ${part.refusal ? 'py-1 text-copper' : ''}`}>
              <span className="block truncate" title={part.text}>
                {part.text}
              </span>
              {(part.refusal || part.note) && <span className="block text-note font-semibold text-copper">{part.refusal || part.note}</span>}
            </span>
            <span className="quiet truncate text-note max-[1100px]:hidden">
              {part.by_hand ? 'set by hand' : aside ? `${aside.place || 'shelf'} · ${aside.free + aside.reserved} left` : part.to_buy ? 'to buy' : ''}
            </span>
            <Bar share={worst?.share ?? 0} name={`${part.role}: ${worst?.burden ?? ''} ${worst?.text ?? ''}`} />
            <span className="text-right whitespace-nowrap">
              {worst && (
                <Why of={`part:${part.name}:${worst.burden}`} className="mono min-h-[34px] text-body">
                  {worst.text}
                </Why>
              )}
            </span>
            <span className="quiet truncate text-note" title={worst?.where}>
              {worst?.where}
            </span>
          </li>
        );
      })}
    </ul>
  );
}

function Opened({ part, children }: { part: PartRow; children: ReactNode }) {
  return (
    <Popover.Root>
      <Popover.Trigger
        className="min-h-[36px] w-full text-left text-lead font-bold underline decoration-muted decoration-dotted underline-offset-4"
        aria-label={`${part.role}, ${part.editable ? 'read and edit' : 'read'}`}
      >
        {part.name}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          collisionPadding={12}
          className="panel z-20 max-h-[min(76vh,var(--radix-popover-content-available-height))] w-[470px] max-w-[94vw] space-y-3 overflow-auto p-5 text-body"
        >
          <h3 className="heading first-letter:uppercase">{part.role}</h3>
          <p>{part.text}</p>
          {part.limit_text && <p>{part.explained ? <Why of={`part:${part.name}:value`}>{part.limit_text}</Why> : part.limit_text}</p>}
          {part.refusal && <p className="font-semibold text-copper">{part.refusal}</p>}
          <table className="w-full">
            <tbody>
              {part.stresses.map((s) => (
                <tr key={s.burden} className="row-line">
                  <td className="py-1">{s.burden}</td>
                  <td className={`py-1 text-right ${s.holds ? '' : 'font-bold text-copper'}`}>
                    <Why of={`part:${part.name}:${s.burden}`} className="mono">
                      {s.text}
                    </Why>
                  </td>
                  <td className="quiet py-1 pl-3 text-note">{s.where}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {children}
          <Popover.Close className="button">Close</Popover.Close>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
