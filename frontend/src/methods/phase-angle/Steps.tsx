import type { Schemas } from '../../api/client';
import { ValueField } from '../../ui/ValueField';
import type { Control } from './query';

interface Props {
  shown: Schemas['PhaseShown'];
  asked: Control;
  selected: number;
  onSelect: (step: number) => void;
  change: (part: Partial<Control>) => void;
}

const HEADS = ['motor, V', 'line', 'input, W', 'pf', 'rise'];

/** Every step with its angle, typed or set for its speed; and the limits of the whole. */
export function Steps({ shown, asked, selected, onSelect, change }: Props) {
  const angles = shown.steps.map((s) => (s.firing_deg === null ? '' : s.firing_deg.toFixed(2)));
  const type = (i: number, text: string) => {
    change({ angles: angles.map((a, k) => (k === i ? text : a || '0')) });
    return Promise.resolve(null);
  };
  return (
    <div className="grid grid-cols-[minmax(0,1.9fr)_minmax(0,1fr)] gap-6 max-[1100px]:grid-cols-1">
      <div className="min-w-0 overflow-x-auto self-start">
        <table className="w-full text-body">
          <thead className="quiet text-note">
            <tr>
              <th className="w-10 text-left font-normal">step</th>
              <th className="w-24 text-left font-normal">fires at</th>
              <th className="text-right font-normal">speed, rpm</th>
              {HEADS.map((h) => (
                <th key={h} className="pl-3 text-right font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.steps.map((s, i) => (
              <tr key={s.step} className={`row-line cursor-pointer align-top ${s.step === selected ? 'bg-shade/50' : ''}`} onClick={() => onSelect(s.step)}>
                <td className={`py-1.5 pl-1 text-lead font-bold ${s.step === selected ? 'text-copper' : ''}`}>{s.step}</td>
                <td className="min-w-24 py-0.5 pr-3 [&_label]:sr-only">
                  <ValueField
                    label={`firing angle of step ${s.step}`}
                    text={s.firing_deg === null ? '' : s.firing_deg === 0 ? 'full on' : `${s.firing_deg.toFixed(1)}°`}
                    hint="98°"
                    onCommit={(text) => type(i, text === 'full on' ? '0' : text)}
                  />
                </td>
                <td className="mono py-1.5 text-right whitespace-nowrap">{s.speed?.number ?? '–'}</td>
                {s.cells.length > 0 ? (
                  s.cells.map((c, k) => (
                    <td key={k} className="mono py-1.5 pl-3 text-right whitespace-nowrap">
                      {c}
                    </td>
                  ))
                ) : (
                  <td colSpan={HEADS.length} className="py-1.5 pl-4 text-copper">
                    {s.reason}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div>
        {shown.steps
          .filter((s) => s.step === selected && (s.facts.length > 0 || s.reason))
          .map((s) => (
            <div key={s.step} className="row-line pb-1 text-body">
              <p>
                <span className="font-semibold">Step {s.step}:</span> {[...s.facts, ...(shown.wave?.step === s.step ? shown.wave.facts : [])].join('; ')}.
              </p>
              {s.cells.length > 0 && s.reason && <p className="text-note">{s.reason}.</p>}
            </div>
          ))}
        <ul className="text-body">
          {shown.limits.map((l) => (
            <li key={l} className="row-line py-1">
              {l}
            </li>
          ))}
          {shown.note && <li className="quiet py-1 text-note">{shown.note}.</li>}
        </ul>
        {(asked.angles ?? []).length > 0 && (
          <button type="button" className="link-button" onClick={() => change({ angles: [] })}>
            set all angles for the wanted speeds
          </button>
        )}
      </div>
    </div>
  );
}
