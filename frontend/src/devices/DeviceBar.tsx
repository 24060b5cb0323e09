import { Popover } from 'radix-ui';
import { when } from '../ui/when';
import { ByHand } from './ByHand';
import { useAnswers, type DeviceAnswer, type DeviceShown } from './api';

interface Props {
  jobId: number;
  devices: readonly DeviceShown[];
  device: DeviceShown | null;
  onPick: (name: string) => void;
  /** The last answer on this page. */
  last: DeviceAnswer | null;
  busy: boolean;
}

/** Which device is in hand, what it answered last, and the log of all its answers. */
export function DeviceBar({ jobId, devices, device, onPick, last, busy }: Props) {
  const log = useAnswers(jobId).data ?? [];
  if (!device) return null;
  const bad = last !== null && !last.kept;
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-body">
      <label className="flex items-center gap-2">
        <span className="quiet">read with</span>
        <select className="min-h-10 cursor-pointer bg-transparent" value={device.name} onChange={(e) => onPick(e.target.value)}>
          {devices.map((d) => (
            <option key={d.name} value={d.name}>
              {d.name}
            </option>
          ))}
        </select>
      </label>
      <span className="quiet text-note">
        {device.kind}; <span className="mono">r</span> reads the next
      </span>
      <span role="status" aria-live="polite" className={bad ? 'font-semibold text-copper' : ''}>
        {busy ? 'asking…' : last ? `${bad ? '△ ' : '◉ '}${last.device}: ${last.words}${last.kept ? ', kept' : last.why ? `; ${last.why}` : ', not kept'}` : ''}
      </span>
      {device.simulated && <ByHand device={device} />}
      {log.length > 0 && (
        <Popover.Root>
          <Popover.Trigger className="link-button">all answers</Popover.Trigger>
          <Popover.Portal>
            <Popover.Content side="bottom" align="end" className="z-20 max-h-[60vh] w-[620px] max-w-[94vw] overflow-auto border border-ink bg-paper p-4">
              <h2 className="heading">What devices answered</h2>
              <p className="quiet text-note">Only values that came in time and can be true become readings; the others stay here.</p>
              <ul>
                {log.map((a) => (
                  <li key={`${a.at} ${a.quantity} ${a.words}`} className="row-line grid grid-cols-[110px_110px_minmax(0,1fr)] gap-3 py-1">
                    <span className="quiet">{when(a.at)}</span>
                    <span className={a.outcome === 'value' ? '' : 'text-copper'}>
                      {a.outcome === 'value' ? '◉ ' : '△ '}
                      {a.outcome}
                    </span>
                    <span>
                      {a.device}: {a.words}
                    </span>
                  </li>
                ))}
              </ul>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      )}
    </div>
  );
}
