import type { Problem, Schemas } from '../../api/client';
import { Bar } from '../../ui/Bar';
import { ValueField } from '../../ui/ValueField';
import { Why } from '../../ui/Why';
import type { Control } from './query';

type Triac = NonNullable<Control['triac']>;
const DATA: readonly [keyof Triac, string, string][] = [
  ['rms', 'rms amps', '4A'],
  ['surge', 'one half-cycle', '30A'],
  ['off_state', 'off-state volts', '800V'],
  ['gate', 'gate current', '10mA'],
  ['holding', 'holding', '10mA'],
  ['latching', 'latching', '20mA'],
  ['dvdt', 'V/µs, commuting', '10'],
  ['threshold', 'V_TO', '0.9V'],
  ['slope', 'r_d', '100mΩ'],
  ['case', 'R_jc, K/W', '3'],
  ['junction', 'junction, most', '125°C'],
];
const FITTED = [
  ['fused', 'fuse'],
  ['filtered', 'interference filter and varistor'],
  ['snubbed', 'snubber'],
] as const;

interface Props {
  shown: Schemas['PhaseShown'];
  asked: Control;
  problem: Problem | null;
  change: (part: Partial<Control>) => void;
  /** Whether each number can be asked why: only of what is chosen. */
  explained: boolean;
}

/** Every part of the control with the burden nearest to its limit; the triac's own data; what is fitted at all. */
export function TriacParts({ shown, asked, problem, change, explained }: Props) {
  const triac = asked.triac ?? {};
  return (
    <div className="grid grid-cols-[minmax(0,1.7fr)_minmax(0,1fr)] gap-6 max-[1100px]:grid-cols-1">
      <ul aria-label="Parts">
        {shown.parts.map((p) => {
          const worst = p.stresses[p.worst];
          return (
            <li key={p.name} className="grid grid-cols-[36px_minmax(0,1.6fr)_minmax(50px,0.6fr)_150px] items-center gap-3 border-b border-rule py-1 text-body">
              <span className="font-bold">{p.name}</span>
              <span className="min-w-0">
                <span className="font-semibold">{p.role}</span>, {p.text}
                {(p.refusal || p.note) && (
                  <span className={`block text-note ${p.refusal ? 'font-semibold text-copper' : 'quiet'}`}>{p.refusal ? `△ ${p.refusal}` : p.note}</span>
                )}
              </span>
              {worst ? <Bar share={worst.share} name={`${p.role}: ${worst.burden} ${worst.text}`} /> : <span />}
              <span className="text-right">
                {worst && (
                  <>
                    {explained ? (
                      <Why of={`part:${p.name}:${worst.burden}`} className="mono text-body">
                        {worst.text}
                      </Why>
                    ) : (
                      <span className="mono">{worst.text}</span>
                    )}
                    <span className="quiet block text-note leading-tight">{worst.burden}</span>
                  </>
                )}
              </span>
            </li>
          );
        })}
      </ul>
      <div>
        <h3 className="heading">Your triac, from its data sheet</h3>
        <div className="grid grid-cols-3 items-end gap-x-4">
          {DATA.map(([key, label, hint]) => (
            <div key={key} className={problem?.field === `triac.${key}` ? 'bg-shade' : ''}>
              <ValueField
                label={label}
                text={triac[key] ?? ''}
                hint={hint}
                onCommit={(text) => {
                  change({ triac: { ...triac, [key]: text } });
                  return Promise.resolve(null);
                }}
              />
            </div>
          ))}
        </div>
        <div className="mt-2 flex flex-wrap gap-x-5">
          <span className="quiet flex items-center text-note">fitted:</span>
          {FITTED.map(([key, text]) => (
            <label key={key} className="flex min-h-10 items-center gap-2">
              <input type="checkbox" className="size-5" checked={asked[key] ?? true} onChange={(e) => change({ [key]: e.target.checked })} />
              {text}
            </label>
          ))}
        </div>
        <ul className="mt-1 text-body">
          {[shown.leak_text, ...shown.part_facts].filter(Boolean).map((f) => (
            <li key={f} className="row-line py-1">
              {f}
            </li>
          ))}
        </ul>
      </div>
    </div>
  );
}
