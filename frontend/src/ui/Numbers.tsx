import { Dialog, Tabs } from 'radix-ui';
import { useTables, type JobPageData } from '../api/client';

/** The numbers behind every picture of the job, one key away. */
export function Numbers({ page, open, onOpenChange }: { page: JobPageData; open: boolean; onOpenChange: (open: boolean) => void }) {
  const tables = useTables(page, open);
  const found = tables.data ?? [];
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content className="panel fixed left-1/2 top-1/2 z-20 flex max-h-[88vh] w-[1120px] max-w-[96vw] -translate-x-1/2 -translate-y-1/2 flex-col p-6">
          <Dialog.Title className="heading text-title">The numbers behind the pictures</Dialog.Title>
          <Dialog.Description className="quiet mb-2">As computed now, {page.fan.name}. A step that is barred or does not start has none.</Dialog.Description>
          {found.length === 0 ? (
            <p className="quiet py-6">{tables.isPending ? 'Fetching…' : 'Nothing is computed yet.'}</p>
          ) : (
            <Tabs.Root defaultValue={found[0]?.key} className="flex min-h-0 flex-col">
              <Tabs.List className="flex gap-6 border-b border-rule" aria-label="Tables">
                {found.map((t) => (
                  <Tabs.Trigger key={t.key} value={t.key} className="tab -mb-px">
                    {t.title}
                  </Tabs.Trigger>
                ))}
              </Tabs.List>
              {found.map((t) => (
                <Tabs.Content key={t.key} value={t.key} className="min-h-0 overflow-auto pt-2" tabIndex={0}>
                  <table className="w-full text-body">
                    <thead className="sticky top-0 bg-paper text-left text-note">
                      <tr>
                        {t.columns.map((c) => (
                          <th key={c.name} scope="col" className="quiet py-1 pr-4 align-bottom font-normal">
                            {c.name}
                            {c.unit && <span className="block text-note">{c.unit}</span>}
                          </th>
                        ))}
                      </tr>
                    </thead>
                    <tbody>
                      {t.rows.map((row, i) => (
                        <tr key={i} className="row-line">
                          {row.map((cell, k) => (
                            <td key={k} className="mono py-1 pr-4 whitespace-nowrap">
                              {cell}
                            </td>
                          ))}
                        </tr>
                      ))}
                    </tbody>
                  </table>
                </Tabs.Content>
              ))}
            </Tabs.Root>
          )}
          <Dialog.Close className="button mt-4 self-start">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
