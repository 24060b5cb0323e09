import { VerdictWord } from '../../instruments/VerdictSign';
import { ValueField } from '../../ui/ValueField';
import { useTake, type SaveWiring, type WirePage } from './api';
import { Tick } from './Lists';
import { Offers } from './Offers';

/** Ohms with the power off, judged at once; what an odd one points to stands beside it. */
export function Dead({ wire, save }: { wire: WirePage; save: SaveWiring }) {
  const take = useTake();
  const odd = wire.dead.filter((d) => d.read.agreement === 'contradicts');
  const lastOdd = odd[odd.length - 1]?.read.key ?? '';
  return (
    <div className="space-y-5">
      <section aria-label="Dead tests">
        <p className="quiet pb-1">Supply disconnected and proved dead, capacitors emptied, calls off. Zero the leads first.</p>
        {wire.no_dead && <p className="text-copper">{wire.no_dead}</p>}
        <ul>
          {wire.dead.map((d) => (
            <li key={d.read.key} className="row-line">
              <div className="grid grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)_minmax(0,1fr)_140px_90px_minmax(0,1fr)] items-center gap-x-3 max-[900px]:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_120px]">
                <span>
                  <span className="mono font-semibold">
                    {d.first} – {d.second}
                  </span>
                  {d.stand && <span className="quiet block text-note">{d.stand}</span>}
                </span>
                <span className="mono text-body">{d.expect}</span>
                <span className="quiet text-note">{d.through ? `through ${d.through}` : d.unknown ? `unknown: ${d.unknown}` : ''}</span>
                <span className="[&_label]:sr-only">
                  <ValueField
                    inputId={`wire-${d.read.key}`}
                    label={`${d.first} to ${d.second}${d.stand ? `, ${d.stand}` : ''}`}
                    text={d.read.text}
                    hint="18.1, or open"
                    onCommit={(text) => take(d.read, `The ohms from ${d.first} to ${d.second}`, text)}
                  />
                </span>
                <span>{d.read.agreement === 'not to be known' ? <span className="quiet">no verdict</span> : <VerdictWord verdict={d.read.verdict} />}</span>
                <span className="quiet text-note">{d.read.told}</span>
              </div>
              {d.read.key === lastOdd && wire.diagnosis && (
                <div className="my-1 border-l-4 border-copper pl-3" role="status" aria-label="What explains it">
                  <p className="font-semibold">What would explain it:</p>
                  <ol>
                    {wire.diagnosis.suspects.map((s) => (
                      <li key={s.words} className="flex gap-3">
                        <span className="mono w-[90px] shrink-0 text-right">{s.share}</span>
                        <span>
                          {s.words}
                          {s.tied && <span aria-label="not told apart by any listed test"> *</span>}
                        </span>
                      </li>
                    ))}
                  </ol>
                  {wire.diagnosis.suspects.some((s) => s.tied) && <p className="quiet text-note">* some of these no listed test tells apart: look at both</p>}
                  {wire.diagnosis.next_words ? (
                    <p>
                      Worth reading next:{' '}
                      <button
                        type="button"
                        className="link-button font-semibold"
                        onClick={() => document.getElementById(`wire-${wire.diagnosis?.next_key ?? ''}`)?.focus()}
                      >
                        {wire.diagnosis.next_words}
                      </button>
                    </p>
                  ) : (
                    <p className="quiet">No further test of this list tells more: look at these places.</p>
                  )}
                </div>
              )}
            </li>
          ))}
        </ul>
        <Offers save={save} />
      </section>
      {wire.lamps.length > 0 && (
        <section aria-label="Lamp test">
          <h2 className="heading">Lamp test, before the motor is joined</h2>
          <p className="quiet">
            A lamp for each tap, power on, the thermostat off; a jumper in place of each call. Two lamps at once mean two taps alive later.
          </p>
          <ul>
            {wire.lamps.map((l) => (
              <li key={l.read.key} className="row-line grid grid-cols-[40px_minmax(0,1fr)_minmax(0,1fr)_minmax(0,1fr)] items-center gap-x-3">
                <Tick read={l.read} what="The tick of a lamp test" say={`${l.jumper}: ${l.lit} lights`} />
                <span className="mono">{l.jumper}</span>
                <span>
                  lights: <b>{l.lit}</b>
                </span>
                <span className="quiet text-note">{l.read.told}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <section aria-label="Live test">
        <h2 className="heading">Live test, row by row</h2>
        <p className="quiet">Everything closed up, only the screws of the plate still loose. Tick what is seen to be so.</p>
        <ul>
          {wire.rows.map((r) => {
            const called = r.cells
              .map((c, k) => (c === 'yes' ? wire.columns[k] : c ? `${wire.columns[k] ?? ''} ${c}` : ''))
              .filter(Boolean)
              .join(', ');
            const runs = r.runs
              .filter((x) => x.on)
              .map((x) => `${x.part} ${x.words}`)
              .join(', ');
            return (
              <li key={r.read.key} className="row-line grid grid-cols-[40px_minmax(0,1.4fr)_minmax(0,1.4fr)_minmax(0,1fr)] items-center gap-x-3">
                <Tick read={r.read} what="The tick of a live row" say={`${called || 'nothing called'}: ${runs || 'all off'}`} />
                <span>{called || 'nothing called'}</span>
                <span className="font-semibold">{runs || 'all off'}</span>
                <span className="quiet text-note">{r.read.told}</span>
              </li>
            );
          })}
        </ul>
      </section>
    </div>
  );
}
