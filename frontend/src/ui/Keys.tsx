import { Dialog } from 'radix-ui';
import { KEYS } from './keys';

export function Keys({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content className="fixed left-1/2 top-1/2 z-20 w-[560px] max-w-[92vw] -translate-x-1/2 -translate-y-1/2 border border-ink bg-paper p-6">
          <Dialog.Title className="heading mb-3">Keys</Dialog.Title>
          <Dialog.Description className="sr-only">What each key does</Dialog.Description>
          <dl className="grid grid-cols-[110px_1fr] gap-y-1.5">
            {KEYS.map((row) => (
              <div key={row.show} className="contents">
                <dt className="mono">{row.show}</dt>
                <dd>{row.what}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className="button mt-4">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
