import type { Frame, Problem, Schemas } from '../../api/client';
import { VerdictSign } from '../../instruments/VerdictSign';
import { useJobInHand } from '../../job/context';
import { Choice } from '../../ui/Choice';
import { ValueField } from '../../ui/ValueField';
import { Why } from '../../ui/Why';

/** Every rule of the profile, met or missed and by how much; the limits beside it, kept with the job. */
export function Acceptance({ frame, noun, save }: { frame: Frame; noun: string; save: (profile: Schemas['ProfileEdit']) => Promise<Problem | null> }) {
  const { page } = useJobInHand();
  return (
    <div className="grid grid-cols-[minmax(0,1.7fr)_minmax(300px,1fr)] gap-8 pt-1 max-[1100px]:grid-cols-1">
      {frame.rules.length === 0 ? (
        <p className="quiet pt-2">The rules are held against a {noun}: choose one above.</p>
      ) : (
        <table className="self-start text-body">
          <tbody>
            {frame.rules.map((r) => (
              <tr key={r.key} className="row-line">
                <td className="w-7 py-1.5">
                  <svg width={18} height={18} role="img" aria-label={r.met ? 'met' : 'missed'}>
                    <VerdictSign x={9} y={9} verdict={r.met ? 'pass' : 'fail'} />
                  </svg>
                </td>
                <td className="pr-3">
                  {r.text}
                  {r.step !== null && <span className="quiet text-note"> · step {r.step}</span>}
                </td>
                <td className="mono pr-3 text-right whitespace-nowrap">
                  <Why of={`rule:${r.key}`}>{r.value_text}</Why>
                </td>
                <td className="mono quiet pr-3 text-note whitespace-nowrap">{r.limit_text}</td>
                <td className={`text-note whitespace-nowrap ${r.met ? 'quiet' : 'font-semibold text-copper'}`}>{r.by_text}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <section aria-label="Limits" className="text-body">
        <div className="grid grid-cols-2 gap-x-5 gap-y-0.5">
          {page.profile.map((f) => (
            <ValueField key={f.field} label={f.label} text={f.text} hint={f.hint} onCommit={(text) => save({ [f.field]: text })} />
          ))}
        </div>
        <div className="mt-1">
          <Choice
            label="bands must stand apart"
            value={page.bands_apart ? 'yes' : 'no'}
            options={['yes', 'no']}
            onPick={(v) => void save({ bands_apart: v === 'yes' })}
          />
          <Choice
            label="must start on low mains"
            value={page.starts_low ? 'yes' : 'no'}
            options={['yes', 'no']}
            onPick={(v) => void save({ starts_low: v === 'yes' })}
          />
        </div>
      </section>
    </div>
  );
}
