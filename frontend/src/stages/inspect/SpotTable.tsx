import type { Spot } from './api';

interface Props {
  spots: readonly Spot[];
  stepless: boolean;
  /** The fan is known, so that its columns have something to say. */
  fan: boolean;
  label: string;
}

/** Places of a knob or positions of a switch: what the fan does there, and what a lamp in its place shows. */
export function SpotTable({ spots, stepless, fan, label }: Props) {
  return (
    <table className="w-full text-body" aria-label={label}>
      <thead className="quiet text-left text-note">
        <tr>
          <th className="pr-3 font-normal">{stepless ? 'turned back by' : 'position'}</th>
          <th className="pr-3 font-normal">{stepless ? 'ohms or delay' : 'in the line'}</th>
          {fan && (
            <>
              <th className="pr-3 font-normal">fan</th>
              <th className="pr-3 font-normal">its firing</th>
              <th className="pr-3 font-normal">line</th>
            </>
          )}
          <th className="pr-3 font-normal">lamp, true volts</th>
          <th className="pr-3 font-normal">its light</th>
          <th className="pr-3 font-normal">average meter</th>
          {stepless && <th className="pr-3 font-normal">lamp’s firing</th>}
        </tr>
      </thead>
      <tbody className="mono">
        {spots.map((s) => (
          <tr key={s.at} className="row-line">
            <td className="py-0.5">{s.name}</td>
            <td className="pr-3">{s.setting}</td>
            {fan && (
              <>
                <td className="pr-3">
                  {s.speed ? `${s.speed.number} rpm` : ''} <span className="quiet font-sans text-note">{s.fan}</span>
                </td>
                <td className="pr-3">{s.fan_angle}</td>
                <td className="pr-3 whitespace-nowrap">{[s.amps, s.watts].filter(Boolean).join(', ')}</td>
              </>
            )}
            <td className="pr-3">{s.lamp}</td>
            <td className="pr-3">{s.light_text}</td>
            <td className="pr-3">{s.meter}</td>
            {stepless && <td className="pr-3">{s.lamp_angle}</td>}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
