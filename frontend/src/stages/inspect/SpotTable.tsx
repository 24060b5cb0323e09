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
          <th className="font-normal">{stepless ? 'turned back by' : 'position'}</th>
          <th className="font-normal">{stepless ? 'ohms or delay' : 'in the line'}</th>
          {fan && (
            <>
              <th className="font-normal">fan</th>
              <th className="font-normal">its firing</th>
              <th className="font-normal">line</th>
            </>
          )}
          <th className="font-normal">lamp, true volts</th>
          <th className="font-normal">its light</th>
          <th className="font-normal">average meter</th>
          {stepless && <th className="font-normal">lamp’s firing</th>}
        </tr>
      </thead>
      <tbody className="mono">
        {spots.map((s) => (
          <tr key={s.at} className="row-line">
            <td className="py-0.5">{s.name}</td>
            <td>{s.setting}</td>
            {fan && (
              <>
                <td>
                  {s.speed ? `${s.speed.number} rpm` : ''} <span className="quiet font-sans text-note">{s.fan}</span>
                </td>
                <td>{s.fan_angle}</td>
                <td>{[s.amps, s.watts].filter(Boolean).join(', ')}</td>
              </>
            )}
            <td>{s.lamp}</td>
            <td>{s.light_text}</td>
            <td>{s.meter}</td>
            {stepless && <td>{s.lamp_angle}</td>}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
