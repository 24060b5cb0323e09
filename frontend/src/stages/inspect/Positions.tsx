import { useState } from 'react';
import type { Problem } from '../../api/client';
import { unlessKept } from '../../api/save';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import type { Save, Shown, Typed } from './api';

/** What stands in the line at each position of the switch, or the taps of a transformer. */
export function Positions({ shown, typed, save, sections }: { shown: Shown; typed: Typed; save: Save; sections: number }) {
  return typed.topology === 'stepped' ? <Taps typed={typed} save={save} /> : <Closed shown={shown} typed={typed} save={save} sections={sections} />;
}

function Closed({ shown, typed, save, sections }: { shown: Shown; typed: Typed; save: Save; sections: number }) {
  const [problem, setProblem] = useState<Problem | null>(null);
  const what = typed.topology === 'sections' ? 'section' : 'resistor';
  const put = (positions: number[][]) => void save({ positions }, 'positions').then((p) => setProblem(unlessKept(p)));
  const now = shown.positions.map((p) => [...p]);
  return (
    <fieldset className="pt-3">
      <legend className="heading">Positions: {what}s in the line</legend>
      {now.map((place, k) => (
        <div key={k} className="row-line flex min-h-10 items-center gap-4">
          <span className="w-24">position {k + 1}</span>
          {Array.from({ length: sections }, (_, i) => i + 1).map((n) => (
            <label key={n} className="flex min-h-10 items-center gap-2">
              <input
                type="checkbox"
                className="size-5 accent-copper"
                checked={place.includes(n)}
                onChange={(e) =>
                  put(now.map((own, at) => (at !== k ? own : e.target.checked ? [...own, n].sort((a, b) => a - b) : own.filter((x) => x !== n))))
                }
              />
              {n}
            </label>
          ))}
          {place.length === 0 && <span className="quiet">direct</span>}
        </div>
      ))}
      <button type="button" className="link-button" disabled={now.length >= 8} onClick={() => put([...now, what === 'section' ? [1] : []])}>
        one more position
      </button>
      {now.length > 1 && (
        <button type="button" className="link-button" onClick={() => put(now.slice(0, -1))}>
          one less
        </button>
      )}
      {typed.positions.length > 0 && (
        <button type="button" className="link-button" onClick={() => put([])}>
          as usual
        </button>
      )}
      <Refusal problem={problem} />
    </fieldset>
  );
}

function Taps({ typed, save }: { typed: Typed; save: Save }) {
  const [problem, setProblem] = useState<Problem | null>(null);
  const taps = typed.taps;
  const put = (next: Typed['taps'], mine: string) => save({ taps: next }, mine);
  return (
    <fieldset className="pt-3">
      <legend className="heading">Taps, slowest first</legend>
      <label className="flex min-h-10 items-center gap-2">
        <span className="quiet">winding</span>
        <select
          className="input w-56!"
          value={typed.winding}
          onChange={(e) => void save({ winding: e.target.value === 'auto' ? 'auto' : 'separate' }, e.target.value).then((p) => setProblem(unlessKept(p)))}
        >
          <option value="auto">one winding, tapped (auto)</option>
          <option value="separate">separate secondary</option>
        </select>
      </label>
      {taps.map((t, i) => (
        <div key={i} className="row-line grid grid-cols-[70px_120px_120px] items-start gap-3">
          <span className="pt-2">tap {i + 1}</span>
          <ValueField
            bare
            label={`tap ${i + 1}, volts`}
            text={t.volts}
            hint="110 V"
            onCommit={(volts) =>
              put(
                taps.map((own, k) => (k === i ? { ...own, volts } : own)),
                volts,
              )
            }
          />
          <ValueField
            bare
            label={`tap ${i + 1}, ohms`}
            text={t.ohms}
            hint="ohms"
            onCommit={(ohms) =>
              put(
                taps.map((own, k) => (k === i ? { ...own, ohms } : own)),
                ohms,
              )
            }
          />
        </div>
      ))}
      {taps.length < 6 && (
        <div className="w-40">
          <ValueField
            label="next tap, volts"
            text=""
            hint="110 V"
            onCommit={(volts) => (volts ? put([...taps, { volts, ohms: '' }], volts) : Promise.resolve(null))}
          />
        </div>
      )}
      {taps.length > 0 && (
        <button type="button" className="link-button" onClick={() => void put(taps.slice(0, -1), 'one tap less').then((p) => setProblem(unlessKept(p)))}>
          take the last one away
        </button>
      )}
      <Refusal problem={problem} />
    </fieldset>
  );
}
