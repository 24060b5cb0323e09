import { useState } from 'react';
import type { Problem, Schemas } from '../../api/client';
import { unlessKept } from '../../api/save';
import { Refusal } from '../../ui/Refusal';
import type { SaveWiring, WirePage } from './api';

/** An EC motor in place of a tapped one: how it is joined, and what every call then does. */
export function Exchange({ wire, exchange, save }: { wire: WirePage; exchange: Schemas['ExchangeShown']; save: SaveWiring }) {
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <div className="grid grid-cols-[minmax(0,2fr)_minmax(0,3fr)] gap-x-8 gap-y-3 max-[1000px]:grid-cols-1">
      <section aria-label="How it is joined">
        <h2 className="heading">How it is joined</h2>
        <ul>
          {exchange.lines.map((l) => (
            <li key={l} className="row-line py-1">
              {l}
            </li>
          ))}
        </ul>
        <h2 className="heading mt-3">{exchange.failures.length ? 'What fails' : 'Every call does what is wanted.'}</h2>
        <ul>
          {exchange.failures.map((f) => (
            <li key={f} className="border-l-4 border-copper py-0.5 pl-3 text-copper">
              {f}
            </li>
          ))}
        </ul>
        <button
          type="button"
          className="button button-main mt-3"
          onClick={() => void save({ document: exchange.document }, 'the exchange').then((p) => setProblem(unlessKept(p)))}
        >
          Take this circuit
        </button>
        <Refusal problem={problem} />
        <p className="quiet pt-1 text-note">The circuit with the new motor takes the place of the old one; undo brings it back.</p>
      </section>
      <section aria-label="Every call after the exchange">
        <h2 className="heading">Every call</h2>
        <div className="max-h-[520px] overflow-auto">
          <table className="w-full border-collapse text-body">
            <thead className="sticky top-0 bg-paper text-note">
              <tr>
                {wire.columns.map((c) => (
                  <th key={c} scope="col" className="quiet px-1 text-left font-normal">
                    {c}
                  </th>
                ))}
                <th scope="col" className="px-1 text-left">
                  does
                </th>
                <th scope="col" className="px-1 text-left font-normal">
                  wanted
                </th>
                <th scope="col" className="px-1 text-left font-normal" />
              </tr>
            </thead>
            <tbody>
              {exchange.rows.map((r, i) => (
                <tr key={i} className="h-7 border-t border-rule">
                  {r.cells.map((c, k) => (
                    <td key={k} className={`mono px-1 ${c === 'yes' ? 'font-bold' : 'quiet'}`}>
                      {c === 'yes' ? '●' : c || '·'}
                    </td>
                  ))}
                  <td className="px-1 font-semibold">{r.state}</td>
                  <td className="quiet px-1">{r.wanted}</td>
                  <td className={`px-1 ${r.verdict === 'ok' ? '' : 'font-bold text-copper'}`}>
                    {r.verdict === 'ok' ? '● holds' : `△ ${r.verdict.replaceAll('-', ' ')}`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
    </div>
  );
}
