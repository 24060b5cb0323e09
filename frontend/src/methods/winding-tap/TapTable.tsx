import type { Schemas } from '../../api/client';

const WAYS: Record<string, string> = { 'whole-supply': 'start branch across the whole supply', 'main-section': 'across the main section' };

interface Props {
  shown: Schemas['TapsShown'];
  branch: string | null;
}

/** Every tap before power: turns, speed and amps, both ways where nobody knows how the start branch hangs. */
export function TapTable({ shown, branch }: Props) {
  const ways = shown.taps[0]?.speed_texts.length ?? 1;
  const both = ways > 1;
  return (
    <>
      <table className="w-full">
        <thead className="quiet text-left text-note">
          {both && (
            <tr>
              <th colSpan={3} />
              {Object.values(WAYS).map((w) => (
                <th key={w} colSpan={2} className="pr-3 font-normal">
                  {w}
                </th>
              ))}
            </tr>
          )}
          <tr>
            <th className="font-normal">tap</th>
            <th className="font-normal">lead</th>
            <th className="font-normal">turns</th>
            {Array.from({ length: ways }, (_, i) => [
              <th key={`s${i}`} className="font-normal">
                speed
              </th>,
              <th key={`c${i}`} className="font-normal">
                run capacitor
              </th>,
            ])}
            {!both && <th className="font-normal">amps</th>}
            <th className="font-normal">idle leads</th>
          </tr>
        </thead>
        <tbody>
          {shown.taps.map((t) => (
            <tr key={t.name} className="row-line">
              <td className="min-h-9 py-1 font-bold">{t.name}</td>
              <td>{t.lead}</td>
              <td className="mono">{t.turns_text}</td>
              {t.speed_texts.map((speed, i) => [
                <td key={`s${i}`} className="mono">
                  {speed}
                </td>,
                <td key={`c${i}`} className="mono">
                  {t.capacitor_texts[i]}
                </td>,
              ])}
              {!both && <td className="mono">{t.amps_texts[0]}</td>}
              <td className="mono">{t.idle_text}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet text-note">
        {both
          ? 'Nobody said yet how the start branch hangs: volts across the run capacitor on the slowest tap tell the two apart.'
          : `${WAYS[branch ?? ''] ?? 'start branch as found with the leads'}. Idle leads: volts to common while that tap runs.`}
      </p>
    </>
  );
}
