import type { Problem, Schemas } from '../../api/client';
import { ValueField } from '../../ui/ValueField';
import type { Resistors } from './api';

interface Props {
  heat: Schemas['HeatShown'];
  /** Null while something is only tried: hours are typed on what is chosen. */
  chosen: Resistors | null;
  choose: (design: Resistors) => Promise<Problem | null>;
}

/** Watts, surface and a year's energy at each step, beside capacitors that would give the same speeds. */
export function Heat({ heat, chosen, choose }: Props) {
  const hours = heat.steps.map((s) => s.hours_text);
  const put = (at: number, text: string) => choose({ ...(chosen as Resistors), hours: hours.map((h, i) => (i === at ? text : h)) });
  return (
    <div className="pt-1">
      <table className="text-body">
        <thead className="quiet text-note">
          <tr>
            {['step', 'in the line', 'heat', 'surface, about', 'from the mains', 'with a capacitor', 'hours a day'].map((head, i) => (
              <th key={head} className={`pr-6 font-normal ${i > 1 ? 'text-right' : 'text-left'}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {heat.steps.map((s, i) => (
            <tr key={s.step} className="row-line">
              <td className="mono pr-6">{s.step}</td>
              <td className="pr-6">{s.joins}</td>
              <td className="mono pr-6 text-right">{s.heat_text}</td>
              <td className="mono pr-6 text-right">{s.surface_text}</td>
              <td className="mono pr-6 text-right">{s.input_text}</td>
              <td className="mono pr-6 text-right">{s.beside_text}</td>
              <td className="mono w-24 text-right">
                {chosen ? <ValueField bare label={`hours a day at step ${s.step}`} text={s.hours_text} onCommit={(text) => put(i, text)} /> : s.hours_text}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="pt-1">
        <strong>{heat.year_text}</strong> <span className="quiet text-note">· {heat.air_text}; at each step with the stated mains</span>
      </p>
      {chosen && (
        <div className="w-36">
          <ValueField label="days a year" text={chosen.days} onCommit={(days) => choose({ ...chosen, days })} />
        </div>
      )}
    </div>
  );
}
