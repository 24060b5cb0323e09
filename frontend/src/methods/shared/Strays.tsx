import type { Frame } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Why } from '../../ui/Why';

const CAUSE = { parts: 'the parts', mains: 'the mains', motor: 'the motor' } as const;

/** How far each step may stray with everything free, and which cause alone would make how much of it. */
export function Strays({ frame, noun, tried }: { frame: Frame; noun: string; tried: boolean }) {
  const { selected, onSelect } = useJobInHand();
  if (frame.spreads.length === 0) return <p className="quiet pt-3">Choose a {noun} first.</p>;
  const most = Math.max(...frame.spreads.map((s) => (s.together.high ?? 0) - (s.together.low ?? 0)), 1);
  return (
    <div>
      {tried && <p className="quiet pt-1 text-note">Of the chosen {noun}, not of the one being tried.</p>}
      <table className="w-full text-body">
        <thead className="quiet text-left text-note">
          <tr>
            <th className="w-24 font-normal">step</th>
            <th className="w-36 text-right font-normal">all together</th>
            <th className="w-[130px] pl-4 font-normal">band</th>
            <th className="pl-5 text-right font-normal">parts alone</th>
            <th className="pl-5 text-right font-normal">mains alone</th>
            <th className="pl-5 text-right font-normal">motor alone</th>
            <th className="pl-6 font-normal">widest by</th>
          </tr>
        </thead>
        <tbody>
          {frame.spreads.map((s) => (
            <tr key={s.step} className={`row-line ${s.step === selected ? 'bg-shade/60' : ''}`} onClick={() => onSelect(s.step)}>
              <td className={`py-1.5 pl-1 ${s.step === selected ? 'text-copper' : ''}`}>
                <span className="text-title font-bold">{s.step}</span> <span className="quiet text-note">{s.label}</span>
              </td>
              <td className="mono text-right whitespace-nowrap">
                <Why of={`spread:${s.step}`}>{s.together.number} rpm</Why>
              </td>
              <td className="pl-4">
                <div className="h-2.5 bg-band" style={{ width: `${Math.max(2, (110 * ((s.together.high ?? 0) - (s.together.low ?? 0))) / most)}px` }} />
              </td>
              {(['parts', 'mains', 'motor'] as const).map((cause) => (
                <td key={cause} className={`mono pl-5 text-right whitespace-nowrap ${s.widest === cause ? 'font-bold' : ''}`}>
                  {s[cause]}
                </td>
              ))}
              <td className="pl-6 text-note">
                <span className="font-semibold">{CAUSE[s.widest]}</span>
                <span className="quiet">{[s.advice && `: ${s.advice}`, ...s.remarks.map((r) => `; ${r}`)].join('')}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet pt-1 text-note">
        Bars on the staff are for the stated mains, to hold a reading against. Here the mains may be off as the acceptance profile says.
      </p>
    </div>
  );
}
