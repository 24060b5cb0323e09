import { useJobInHand } from '../../job/context';
import type { DesignEdit } from '../seam';

/** Tries a design on staff and path, at the speeds that are being dragged; null ends it. */
export function useTry(): (design: DesignEdit | null) => void {
  const { draft, setDraft } = useJobInHand();
  return (design) => setDraft(design ? { ...(draft?.wanted_rpm ? { wanted_rpm: draft.wanted_rpm } : {}), design } : null);
}
