import { Popover } from 'radix-ui';
import { api, problemOf, useSave, type Bank, type Draft, type Frame, type JobPageData, type Problem, type Schemas } from '../../api/client';
import { usePending } from '../../api/outbox';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';
import { Why } from '../../ui/Why';

type Row = Schemas['PartRow'];
type Capacitor = Schemas['CapacitorEdit'];

interface Props {
  page: JobPageData;
  frame: Frame;
  draft: Draft | null;
  choose: (bank: Bank) => Promise<Problem | null>;
  saveSizing: (sizing: Schemas['SizingEdit']) => Promise<Problem | null>;
}

/** Every part of the bank with the burden nearest to its limit; each opens to be read and edited. */
export function Parts({ page, frame, draft, choose, saveSizing }: Props) {
  // An edit that waits on this device counts already: the next one builds on it.
  const waiting = usePending(page.job.id, '/designs') as Bank | null;
  if (frame.parts.length === 0) {
    return <p className="quiet pt-3">Choose a bank above: pointing at one tries it on the staff and the path, a click keeps it.</p>;
  }
  const tried = Boolean(draft?.bank ?? draft?.control);
  const bank = waiting ?? page.design?.bank ?? null;
  return (
    <ul aria-label="Parts">
      {frame.parts.map((part) => {
        const worst = part.stresses[part.worst];
        const aside = page.aside.find((a) => a.part_id === part.shelf_id);
        return (
          <li key={part.name} className="grid grid-cols-[44px_minmax(0,1.5fr)_116px_minmax(70px,1fr)_124px_minmax(0,1.1fr)] items-center gap-3 border-b border-rule text-[14px] max-[1100px]:grid-cols-[44px_minmax(0,1.5fr)_60px_110px_minmax(0,1fr)]">
            {tried || !bank ? (
              <span className="flex min-h-[34px] items-center font-bold">{part.name}</span>
            ) : (
              <Editor page={page} part={part} bank={bank} choose={choose} saveSizing={saveSizing} />
            )}
            <span className={`min-w-0 ${part.refusal ? 'py-1 text-copper' : ''}`}>
              <span className="block truncate" title={part.text}>
                {part.text}
              </span>
              {(part.refusal || part.note) && <span className="block text-[13px] font-semibold text-copper">{part.refusal || part.note}</span>}
            </span>
            <span className="quiet truncate text-[13px] max-[1100px]:hidden">
              {part.by_hand ? 'set by hand' : aside ? `${aside.place || 'shelf'} · ${aside.free + aside.reserved} left` : part.capacitor ? 'to buy' : ''}
            </span>
            <Bar share={worst?.share ?? 0} name={`${part.role}: ${worst?.burden ?? ''} ${worst?.text ?? ''}`} />
            <span className="text-right whitespace-nowrap">
              {worst && (
                <Why of={`part:${part.name}:${worst.burden}`} className="mono min-h-[34px] text-[14px]">
                  {worst.text}
                </Why>
              )}
            </span>
            <span className="quiet truncate text-[13px]" title={worst?.where}>
              {worst?.where}
            </span>
          </li>
        );
      })}
    </ul>
  );
}

/** Stress over rating; what lies beyond the rating is hatched, and said in words beside it. */
export function Bar({ share, name }: { share: number; name: string }) {
  const over = share > 1.0001;
  return (
    <div className="relative h-2.5 w-full bg-shade" role="img" aria-label={`${name}, ${Math.round(100 * share)} per cent of the rating`}>
      <div className={`h-full ${over ? 'bg-copper' : 'bg-ink'}`} style={{ width: `${100 * Math.min(1, share)}%` }} />
      {over && <span className="absolute -top-[7px] -right-1 text-[13px] font-bold text-copper">△</span>}
    </div>
  );
}

function Editor({ page, part, bank, choose, saveSizing }: Omit<Props, 'frame' | 'draft'> & { part: Row; bank: Bank }) {
  const editable = part.capacitor || part.name.startsWith('D') || part.name.startsWith('R') || part.name === 'F';
  return (
    <Popover.Root>
      <Popover.Trigger
        className="min-h-[36px] w-full text-left text-[16px] font-bold underline decoration-muted decoration-dotted underline-offset-4"
        aria-label={`${part.role}, ${editable ? 'read and edit' : 'read'}`}
      >
        {part.name}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" collisionPadding={12} className="panel z-20 max-h-[76vh] w-[470px] max-w-[94vw] space-y-3 overflow-auto p-5 text-[14px]">
          <h3 className="heading first-letter:uppercase">{part.role}</h3>
          <p>{part.text}</p>
          {part.limit_text && (
            <p>
              <Why of={`part:${part.name}:value`}>{part.limit_text}</Why>
            </p>
          )}
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
                  <td className="quiet py-1 pl-3 text-[13px]">{s.where}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {part.capacitor && <CapacitorFields page={page} part={part} bank={bank} choose={choose} saveSizing={saveSizing} />}
          {editable && !part.capacitor && <SmallPartField part={part} bank={bank} choose={choose} />}
          <Popover.Close className="button">Close</Popover.Close>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const NAMES = ['A', 'B', 'C'];

function CapacitorFields({ page, part, bank, choose, saveSizing }: Omit<Props, 'frame' | 'draft'> & { part: Row; bank: Bank }) {
  const { who } = useWho();
  const at = NAMES.indexOf(part.name);
  const mine = bank.capacitors[at];
  const jobId = page.job.id;
  const reserve = useSave(jobId, (count: number) =>
    api.PUT('/api/jobs/{job_id}/reservations', { params: { path: { job_id: jobId } }, body: { part_id: part.shelf_id ?? 0, count, who } }),
  );
  if (!mine) return null;
  // What is typed here is another part than the one on the shelf, until it is put there.
  const put = (edit: Partial<Capacitor>) =>
    choose({ ...bank, capacitors: bank.capacitors.map((c, i) => (i === at ? { ...c, shelf_id: null, ...edit } : c)) });
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
      <p className="quiet text-[13px]">A measured value counts instead of the printed one, with the meter’s own error only: bands get narrower.</p>
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
      {reserve.error && (
        <p role="alert" className="text-copper">
          {problemOf(reserve.error).detail}
        </p>
      )}
    </div>
  );
}

function SmallPartField({ part, bank, choose }: { part: Row; bank: Bank; choose: Props['choose'] }) {
  const [key, at] = [part.name[0], NAMES.indexOf(part.name[1] ?? '')];
  const list = key === 'D' ? (bank.bleeds ?? []) : (bank.limiters ?? []);
  const put = (text: string) => {
    if (part.name === 'F') return choose({ ...bank, fuse: text });
    const filled = bank.capacitors.map((_, i) => (i === at ? text : (list[i] ?? '')));
    return choose(key === 'D' ? { ...bank, bleeds: filled } : { ...bank, limiters: filled });
  };
  return (
    <div className="flex items-end gap-4">
      <div className="w-40">
        <ValueField label={key === 'D' ? `bleed ${part.name}, one resistor` : part.role} text={part.bench} onCommit={put} />
      </div>
      {part.by_hand && (
        <button type="button" className="link-button" onClick={() => void put('')}>
          let Fenwit choose
        </button>
      )}
    </div>
  );
}
