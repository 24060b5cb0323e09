import type { Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { ScopeCapture } from '../shared/ScopeCapture';
import { useCaptures } from './api';

type Shown = Schemas['CaptureShown'];

/** A scope's CSV of the motor's volts, laid over the waves of a step. */
export function CaptureOver({ step, setOver }: { step: number; setOver?: (shown: Shown | null) => void }) {
  const { page } = useJobInHand();
  const kept = useCaptures(page, step);
  const notYet = 'Readings belong to a step that is built: choose phase angle first to keep them.';
  return (
    <ScopeCapture<Shown>
      step={step}
      to="captures"
      kept={kept.data}
      caution="No clip of a scope belongs to the mains: a differential probe across the motor."
      hint="CSV: times and the motor’s volts; a second channel with the supply makes the angles surer. Two periods or more."
      notYet={page.design?.method === 'phase-angle' ? null : notYet}
      {...(setOver ? { setOver } : {})}
    />
  );
}
