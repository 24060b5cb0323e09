import type { ControlShown } from './api';

/** Volts and speed of every fan, the knob's scale to print, and the ohms the wiring must show dead. */
export function Inputs({ shown }: { shown: ControlShown }) {
  const steps = [...new Set(shown.fans.map((f) => f.step))];
  const fans = [...new Set(shown.fans.map((f) => f.fan))];
  return (
    <div className="grid grid-cols-2 gap-x-8 gap-y-2 py-2 text-body max-[1000px]:grid-cols-1">
      <section aria-label="Every fan">
        <h3 className="heading text-body">At every fan’s own terminals</h3>
        <table className="w-full">
          <thead className="quiet text-left text-note">
            <tr>
              <th className="font-normal">step</th>
              {fans.map((f) => (
                <th key={f} className="font-normal">
                  fan {f}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {steps.map((s) => (
              <tr key={s} className="row-line">
                <td className="mono">{s}</td>
                {fans.map((f) => {
                  const at = shown.fans.find((x) => x.step === s && x.fan === f);
                  return (
                    <td key={f} className={`mono ${at?.speed === 'off' || at?.note ? 'text-copper' : ''}`}>
                      {at ? `${at.volts}, ${at.speed}` : ''}
                      {at?.note && <span className="block font-sans text-note">△ {at.note}</span>}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section aria-label="Dead checks">
        <h3 className="heading text-body">Dead: power off, link empty, the fan’s plugs pulled</h3>
        <table className="w-full">
          <tbody>
            {shown.checks.map((c) => (
              <tr key={`${c.between} ${c.how}`} className="row-line">
                <td>{c.between}</td>
                <td className="quiet">{c.how}</td>
                <td className="mono text-right">{c.ohms}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {shown.scale.length > 0 && (
        <section aria-label="Scale of the knob" className="col-span-full">
          <h3 className="heading text-body">Scale of the knob, slow end to fast end</h3>
          <p className="mono flex justify-between">
            {shown.scale.map((m) => (
              <span key={m.turn} className={m.rpm === 0 ? 'quiet' : ''}>
                {m.rpm === 0 ? 'off' : m.rpm}
              </span>
            ))}
          </p>
        </section>
      )}
    </div>
  );
}
