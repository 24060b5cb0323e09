import { useJobInHand } from '../../job/context';
import { CaptureOver } from './CaptureOver';

/** A scope's capture of the step in hand. */
export default function ProveTools() {
  const { selected } = useJobInHand();
  return <CaptureOver key={selected} step={selected} />;
}
