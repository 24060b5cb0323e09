import type { Frame } from '../../api/client';
import type { SizedMethod } from '../seam';

/** The frame as one method may show it: beside a design of another one, nothing of that counts as its own. */
export function framedBy(whole: Frame, method: SizedMethod): Frame {
  return whole.method === method ? whole : { ...whole, parts: [], rules: [], spreads: [], miss_text: '', zones: [], marks: [], aims: [] };
}
