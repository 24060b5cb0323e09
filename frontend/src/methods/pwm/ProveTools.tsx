import type { Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { ScopeCapture } from '../shared/ScopeCapture';
import { useLeadCaptures } from './api';
import { LeadPicture } from './LeadPicture';

type Shown = Schemas['LeadShown'];

/** A scope's capture of the control lead at the step in hand, with the tachometer beside it. */
export default function ProveTools() {
  const { page, selected } = useJobInHand();
  const kept = useLeadCaptures(page, selected);
  return (
    <ScopeCapture<Shown>
      key={selected}
      step={selected}
      to="lead-captures"
      kept={kept.data}
      caution="The clip on the fan’s own ground; where its supply hangs on the mains without isolation, a differential probe."
      hint="CSV: times and the lead’s volts, taken at the fan’s plug; a second channel with the tachometer gives the speed. Two periods or more, for the speed two pulses of the tachometer."
      notYet={null}
      picture={(shown) => <LeadPicture shown={shown} />}
    />
  );
}
