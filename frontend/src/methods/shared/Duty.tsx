import type { Problem, Schemas } from '../../api/client';
import { Choice } from '../../ui/Choice';
import { ValueField } from '../../ui/ValueField';

type Edit = Schemas['DutyEdit'];

/** Nothing read yet. */
export const NO_SHEET: Edit = { heat: '', return_air: '', supply_air: '', at_step: 1, rise_from: '', rise_to: '', altitude: '' };

interface Props {
  sheet: Edit;
  shown: Schemas['DutiesShown'] | null;
  steps: number;
  save: (sheet: Edit) => Promise<Problem | null>;
}

/** Which step for cooling, heating and circulation: air from one temperature rise, and the appliance's own range. */
export function Duty({ sheet, shown, steps, save }: Props) {
  const field = (key: Exclude<keyof Edit, 'at_step'>, label: string, hint: string) => (
    <ValueField label={label} text={sheet[key] ?? ''} hint={hint} onCommit={(text) => save({ ...sheet, [key]: text })} />
  );
  return (
    <div className="grid grid-cols-[minmax(300px,1fr)_minmax(0,1.5fr)] gap-8 pt-2 text-body max-[1100px]:grid-cols-1">
      <div>
        <p className="quiet text-note">
          Read while it heats, steady for ten minutes, out of sight of the heater. With the heat, both temperatures and the range on its plate Fenwit says which
          step suits which duty.
        </p>
        <div className="grid grid-cols-2 gap-x-5 gap-y-1">
          {field('return_air', 'air coming back', '20 °C')}
          {field('supply_air', 'air going out', '42 °C')}
          {field('rise_from', 'plate: rise from', '15 K')}
          {field('rise_to', 'to', '30 K')}
          {field('altitude', 'above the sea', '0 m')}
          {field('heat', 'heat put in', '9k4')}
        </div>
        <Choice
          label="read at step"
          value={String(sheet.at_step ?? 1)}
          options={Array.from({ length: Math.max(steps, 1) }, (_, i) => String(i + 1))}
          onPick={(step) => void save({ ...sheet, at_step: Number(step) })}
        />
      </div>
      <div>
        {shown?.note && <p className="text-copper">{shown.note}</p>}
        {shown && shown.picks.length > 0 ? (
          <>
            <ul aria-label="Step for each duty">
              {shown.picks.map((p) => (
                <li key={p.duty} className="row-line grid min-h-10 grid-cols-[110px_80px_minmax(0,1fr)] items-center gap-3">
                  <span>{p.duty}</span>
                  <span className={`text-lead font-bold ${p.step === null ? 'text-copper' : ''}`}>{p.step === null ? '△ none' : `step ${p.step}`}</span>
                  <span className="quiet">{p.words}</span>
                </li>
              ))}
            </ul>
            <table className="mt-2 w-full">
              <thead className="quiet text-left text-note">
                <tr>
                  <th className="font-normal">step</th>
                  <th className="font-normal">air</th>
                  <th className="font-normal">rise with this heat</th>
                  <th className="font-normal">against its plate</th>
                </tr>
              </thead>
              <tbody>
                {shown.steps.map((s) => (
                  <tr key={s.step} className="row-line">
                    <td className="mono">
                      {s.step} <span className="quiet text-note">{s.joins}</span>
                    </td>
                    <td className="mono">{s.flow_text}</td>
                    <td className="mono">{s.rise_text}</td>
                    <td className={s.holds ? '' : 'text-copper'}>{s.holds ? `◉ ${s.verdict}` : `△ ${s.verdict}`}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p className="quiet pt-1 text-note">{shown.flow_text}; other steps by the fan laws, with the band of their speed.</p>
          </>
        ) : (
          !shown?.note && <p className="quiet">Nothing read yet: the most air cools, the least circulates; heating is picked by what the plate allows.</p>
        )}
      </div>
    </div>
  );
}
