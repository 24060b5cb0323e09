import { api, problemOf, useSave, type Problem, type Schemas } from '../../api/client';
import { usePending } from '../../api/outbox';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';
import type { PartRow } from '../shared/Parts';
import type { Bank } from './api';

type Capacitor = Schemas['CapacitorEdit'];

interface Props {
  part: PartRow;
  choose: (bank: Bank) => Promise<Problem | null>;
  saveSizing: (sizing: Schemas['SizingEdit']) => Promise<Problem | null>;
}

/** What of a part of a bank is typed: a capacitor, or a small part beside it. */
export function BankFields({ part, choose, saveSizing }: Props) {
  const { page } = useJobInHand();
  // An edit that waits on this device counts already: the next one builds on it.
  const waiting = usePending(page.job.id, '/designs')?.design as Bank | undefined;
  const chosen = page.design?.design.method === 'series-capacitor' ? page.design.design : null;
  const bank = waiting ?? chosen;
  if (!bank) return null;
  return part.kind === 'capacitor' ? (
    <CapacitorFields part={part} bank={bank} choose={choose} saveSizing={saveSizing} />
  ) : (
    <SmallPartField part={part} bank={bank} choose={choose} />
  );
}

const NAMES = ['A', 'B', 'C'];

function CapacitorFields({ part, bank, choose, saveSizing }: Props & { bank: Bank }) {
  const { page } = useJobInHand();
  const { who } = useWho();
  const at = NAMES.indexOf(part.name);
  const mine = bank.capacitors[at];
  const jobId = page.job.id;
  const reserve = useSave(jobId, (count: number) =>
    api.PUT('/api/jobs/{job_id}/reservations', { params: { path: { job_id: jobId } }, body: { part_id: part.shelf_id ?? 0, count, who } }),
  );
  if (!mine) return null;
  // What is typed here is another part than the one on the shelf, until it is put there.
  const put = (edit: Partial<Capacitor>) => choose({ ...bank, capacitors: bank.capacitors.map((c, i) => (i === at ? { ...c, shelf_id: null, ...edit } : c)) });
  const aside = page.aside.find((a) => a.part_id === part.shelf_id);
  const fixed = page.sizing.fixed ?? [];
  const isFixed = fixed.some((f) => f.value === mine.value && f.measured === mine.measured);
  return (
    <div className="space-y-2">
      <div className="grid grid-cols-2 gap-4">
        <ValueField label={`capacitor ${part.name}, as printed`} text={mine.value ?? ''} hint="2u7" onCommit={(value) => put({ value, measured: '' })} />
        <ValueField label={`capacitor ${part.name}, as measured`} text={mine.measured ?? ''} hint="not measured" onCommit={(measured) => put({ measured })} />
        <ValueField label="rated AC volts" text={mine.rated ?? ''} hint="305V" onCommit={(rated) => put({ rated })} />
        <ValueField label="tolerance" text={mine.tolerance ?? ''} hint="10 %" onCommit={(tolerance) => put({ tolerance })} />
      </div>
      <p className="quiet text-note">A measured value counts instead of the printed one, with the meter’s own error only: bands get narrower.</p>
      <div className="flex flex-wrap gap-4">
        <button
          type="button"
          className="link-button"
          aria-pressed={isFixed}
          onClick={() =>
            void saveSizing({
              fixed: isFixed ? fixed.filter((f) => f.value !== mine.value || f.measured !== mine.measured) : [...fixed.slice(0, 2), mine],
            })
          }
        >
          {isFixed ? `set ${part.name} free in the search` : `fix ${part.name} and search the rest`}
        </button>
        {aside && (
          <button type="button" className="link-button" onClick={() => reserve.mutate(aside.reserved > 0 ? 0 : 1)}>
            {aside.reserved > 0 ? `give back to ${aside.place || 'the shelf'}` : `put aside from ${aside.place || 'the shelf'}`}
          </button>
        )}
      </div>
      <Refusal problem={reserve.error ? problemOf(reserve.error) : null} />
    </div>
  );
}

function SmallPartField({ part, bank, choose }: Omit<Props, 'saveSizing'> & { bank: Bank }) {
  const put = (text: string) => {
    if (part.kind === 'fuse') return choose({ ...bank, fuse: text });
    const at = NAMES.indexOf(part.of);
    const list = part.kind === 'bleed' ? bank.bleeds : bank.limiters;
    const filled = bank.capacitors.map((_, i) => (i === at ? text : (list?.[i] ?? '')));
    return choose(part.kind === 'bleed' ? { ...bank, bleeds: filled } : { ...bank, limiters: filled });
  };
  return (
    <div className="flex items-end gap-4">
      <div className="w-40">
        <ValueField label={part.kind === 'bleed' ? `bleed ${part.name}, one resistor` : part.role} text={part.bench} onCommit={put} />
      </div>
      {part.by_hand && (
        <button type="button" className="link-button" onClick={() => void put('')}>
          let Fenwit choose
        </button>
      )}
    </div>
  );
}
