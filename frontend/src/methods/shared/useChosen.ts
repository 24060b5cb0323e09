import { usePending } from '../../api/outbox';
import { useJobInHand } from '../../job/context';
import type { DesignEdit, DesignOf } from '../seam';

/** The job's design where it is one of this method; one that waits on this device stands before the one that was saved. */
export function useChosen<M extends DesignEdit['method']>(method: M): DesignOf<M> | null {
  const { page } = useJobInHand();
  const waiting = usePending(page.job.id, '/designs')?.design as DesignEdit | undefined;
  const found = waiting?.method === method ? waiting : page.design?.design;
  return found?.method === method ? (found as DesignOf<M>) : null;
}
