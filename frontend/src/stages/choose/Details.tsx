import { Dialog } from 'radix-ui';
import type { Row } from './api';

/** What of one way does not go into a bar: what it is built of, how it fails, its harmonics. */
export function Details({ row, onTake, taking }: { row: Row; onTake: () => void; taking: boolean }) {
  const text = (key: string) => row.merits.find((m) => m.key === key)?.text ?? '';
  const facts: [string, string][] = [
    ['built', [row.built, row.note].filter(Boolean).join('; ')],
    ['hottest', row.hottest],
    ['hum of its own', row.hum],
    ['slow end', [row.slowest && `${row.slowest} at the slowest with 15 % to spare`, row.jump].filter(Boolean).join('; ')],
    ['parts', row.pieces && `${text('parts')} parts, cost ${text('cost')}, box ${text('box')}: ${row.pieces}`],
    ['a year', `${text('energy')}${row.evenness ? `; ${row.evenness}` : ''}`],
  ];
  return (
    <section
      aria-label={`${row.name} in detail`}
      className="grid grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)] gap-6 border-t border-rule pt-2 text-body max-[900px]:grid-cols-1"
    >
      <div className="min-w-0">
        <div className="flex items-center gap-4">
          <h2 className="heading first-letter:uppercase">{row.name}</h2>
          <button type="button" className="button" disabled={taking} onClick={onTake}>
            Size it
          </button>
          {row.harmonics.length > 0 && <Harmonics row={row} />}
        </div>
        <dl className="grid grid-cols-[96px_minmax(0,1fr)] gap-x-3">
          {facts
            .filter(([, words]) => words)
            .map(([name, words]) => (
              <div key={name} className="contents">
                <dt className="quiet text-note leading-6">{name}</dt>
                <dd className="min-w-0">{words}</dd>
              </div>
            ))}
        </dl>
      </div>
      <div className="min-w-0">
        <h3 className="quiet text-note">how it fails</h3>
        <ul>
          {row.failures.map((f) => (
            <li key={f.part} className={`row-line py-0.5 ${f.danger ? 'text-copper' : ''}`}>
              <span className="font-semibold">
                {f.danger && '△ '}
                {f.part}
              </span>{' '}
              {[f.open_words && `open or off: ${f.open_words}`, f.short_words && `short: ${f.short_words}`].filter(Boolean).join(' · ')}
            </li>
          ))}
        </ul>
        {row.unmodelled && <p className="quiet pt-1 text-note">* {row.unmodelled}.</p>}
      </div>
    </section>
  );
}

/** Line harmonics of every step, with and without a filter, as a table. */
function Harmonics({ row }: { row: Row }) {
  const orders = row.harmonics[0]?.rows.map((h) => h.order) ?? [];
  return (
    <Dialog.Root>
      <Dialog.Trigger className="link-button">harmonics of the line</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-10 bg-ink/30" />
        <Dialog.Content className="panel fixed top-1/2 left-1/2 z-20 max-h-[90vh] w-[820px] max-w-[96vw] -translate-x-1/2 -translate-y-1/2 overflow-auto p-6 text-body">
          <Dialog.Title className="heading">Harmonics of the line current, {row.name}</Dialog.Title>
          <Dialog.Description className="quiet pb-2">
            From the solved wave; in brackets with choke and X capacitor from the shelf. {row.unmodelled}.
          </Dialog.Description>
          <table className="w-full">
            <thead className="quiet text-left text-note">
              <tr>
                <th className="font-normal">order</th>
                {row.harmonics.map((s) => (
                  <th key={s.step} className="font-normal">
                    step {s.step}: THD {s.thd_text} ({s.filtered_text})
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {orders.map((order, i) => (
                <tr key={order} className="row-line">
                  <td className="mono">{order}</td>
                  {row.harmonics.map((s) => {
                    const h = s.rows[i];
                    return (
                      <td key={s.step} className="mono">
                        {h && `${h.text} (${h.filtered_text})`}
                      </td>
                    );
                  })}
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
