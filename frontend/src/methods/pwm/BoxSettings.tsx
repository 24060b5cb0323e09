import type { Problem } from '../../api/client';
import { ValueField } from '../../ui/ValueField';
import type { Duty, SignalShown } from './api';

type Box = NonNullable<Duty['box']>;

const FIELDS: readonly (readonly [keyof Box, string, string])[] = [
  ['low', 'set from', '2 kHz'],
  ['high', 'to', '30 kHz'],
  ['step', 'in steps of', '500 Hz'],
  ['top', 'its supply, at most', '60 V'],
  ['own_fan', 'a fan of its own takes', '80 mA'],
  ['own_limit', 'output for that fan', '500 mA'],
  ['track', 'track to the fans', '2 mm'],
  ['copper_um', 'copper', '35 µm'],
  ['pin', 'a pin bears', '3 A'],
];
const TAKEN = { good: 'right', off: 'misread', unread: '–' } as const;

interface Props {
  shown: SignalShown;
  design: Duty;
  onChoose: (design: Duty) => Promise<Problem | null>;
}

/** A controller for the bench: its range, what its board bears, and what its timer makes of every frequency. */
export function BoxSettings({ shown, design, onChoose }: Props) {
  const box = design.box ?? {};
  return (
    <section aria-label="The bench box">
      <h3 className="heading text-body">The box</h3>
      <div className="grid grid-cols-4 gap-x-4">
        {FIELDS.map(([name, label, hint]) => (
          <ValueField
            key={name}
            inputId={`box-${name}`}
            label={label}
            text={box[name] ?? ''}
            hint={hint}
            onCommit={(text) => onChoose({ ...design, box: { ...box, [name]: text } })}
          />
        ))}
      </div>
      <p className="pt-1 text-note first-letter:uppercase">{shown.box_text}.</p>
      <div className="max-h-[220px] overflow-auto">
        <table className="w-full text-note">
          <thead className="quiet sticky top-0 bg-paper text-left">
            <tr>
              <th className="font-normal">asked</th>
              <th className="font-normal">it makes</th>
              <th className="font-normal">off by</th>
              <th className="font-normal">levels</th>
              <th className="font-normal">the fan takes it</th>
              <th />
            </tr>
          </thead>
          <tbody className="mono">
            {shown.box?.map((f) => (
              <tr key={f.asked} className={`row-line ${f.chosen ? 'bg-shade/60' : ''}`}>
                <td>{f.asked}</td>
                <td>{f.made}</td>
                <td>{f.error_text}</td>
                <td>{f.levels}</td>
                <td className={`font-sans ${f.taken === 'off' ? 'text-copper' : ''}`}>{TAKEN[f.taken]}</td>
                <td className="text-right font-sans">
                  {f.chosen ? (
                    'set'
                  ) : (
                    <button
                      type="button"
                      className="link-button"
                      aria-label={`set ${f.asked}`}
                      onClick={() => void onChoose({ ...design, frequency: f.asked, controller: { ...design.controller, choice: 0 } })}
                    >
                      set
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
