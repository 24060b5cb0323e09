import { AlertDialog } from 'radix-ui';

export interface Clash {
  what: string;
  mine: string;
  theirs: string;
  keepMine: () => void;
  takeTheirs: () => void;
}

/** A save that started from an older version: both texts are shown, and the technician chooses. */
export function Conflict({ clash, onDone }: { clash: Clash | null; onDone: () => void }) {
  return (
    <AlertDialog.Root open={clash !== null}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 bg-black/40" />
        <AlertDialog.Content className="fixed left-1/2 top-1/2 w-[520px] max-w-[92vw] -translate-x-1/2 -translate-y-1/2 border border-ink bg-paper p-6">
          <AlertDialog.Title className="heading mb-2">Changed in another window</AlertDialog.Title>
          <AlertDialog.Description className="quiet mb-3">
            {clash?.what} was saved elsewhere while you worked on it. Nothing is lost: choose which one stands.
          </AlertDialog.Description>
          <dl className="grid grid-cols-[90px_1fr] gap-y-2">
            <dt className="quiet">yours</dt>
            <dd className="mono break-words">{clash?.mine}</dd>
            <dt className="quiet">the other</dt>
            <dd className="mono break-words">{clash?.theirs}</dd>
          </dl>
          <div className="mt-5 flex gap-3">
            <AlertDialog.Action
              className="button button-main"
              onClick={() => {
                clash?.keepMine();
                onDone();
              }}
            >
              Keep mine
            </AlertDialog.Action>
            <AlertDialog.Cancel
              className="button"
              onClick={() => {
                clash?.takeTheirs();
                onDone();
              }}
            >
              Take the other
            </AlertDialog.Cancel>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
