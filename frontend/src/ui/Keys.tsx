import { Dialog } from 'radix-ui';

const KEYS: [string, string][] = [
  ['1 … 8', 'select a step'],
  ['↑ ↓', 'next step up or down; on a notch of the staff: move it by 1 rpm'],
  ['Page ↑ ↓', 'on a notch: move it by 10 rpm'],
  ['[  ]', 'stage before, stage after'],
  ['Enter', 'in Prove and Measure: take the reading and go on to the next'],
  ['Esc', 'put a field back; once more: leave it'],
  ['g', 'into the stage: its first field or button'],
  ['t', 'table of the numbers behind the pictures'],
  ['w', 'why this speed? Any underlined number answers the same with Enter'],
  ['u  U', 'undo, redo (Ctrl Z and Ctrl Y too)'],
  ['p', 'printable page; on it: p prints, Esc goes back'],
  ['d', 'dark or light'],
  ['b  s', 'to the Bench, to the shelf'],
  ['n  /', 'on Bench and shelf: new, find'],
  ['?', 'these keys'],
];

export function Keys({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content className="fixed left-1/2 top-1/2 z-20 w-[560px] max-w-[92vw] -translate-x-1/2 -translate-y-1/2 border border-ink bg-paper p-6">
          <Dialog.Title className="heading mb-3">Keys</Dialog.Title>
          <Dialog.Description className="sr-only">What each key does</Dialog.Description>
          <dl className="grid grid-cols-[110px_1fr] gap-y-1.5">
            {KEYS.map(([key, what]) => (
              <div key={key} className="contents">
                <dt className="mono">{key}</dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className="button mt-4">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
