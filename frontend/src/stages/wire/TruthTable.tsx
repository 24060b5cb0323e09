import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import { useJobInHand } from '../../job/context';
import { VerdictWord } from '../../instruments/VerdictSign';
import { wayBetween, type Moment, type WirePage, type WireRow } from './api';
import { Sheet, type Lit } from './Sheet';

const STEP_MS = 450;

/** Calls and positions to the left, what runs to the right; the row in hand lives in the drawing beside it. */
export function TruthTable({ wire }: { wire: WirePage }) {
  const { page } = useJobInHand();
  const [at, setAt] = useState(0);
  const [over, setOver] = useState<number | null>(null);
  const [moments, setMoments] = useState<Moment[] | null>(null);
  const [frame, setFrame] = useState(0);
  const [alone, setAlone] = useState(false);
  const rows = useRef<(HTMLTableRowElement | null)[]>([]);
  const shown = over ?? Math.min(at, wire.rows.length - 1);
  const row = wire.rows[shown];
  const playing = moments?.[frame] ?? null;
  useEffect(() => {
    if (!moments) return;
    const timer = window.setTimeout(() => (frame + 1 < moments.length ? setFrame(frame + 1) : setMoments(null)), STEP_MS + (moments[frame]?.for_s ? 900 : 0));
    return () => window.clearTimeout(timer);
  }, [moments, frame]);
  if (!row || !wire.sheet) return null;
  const parts = row.runs.map((r) => r.part);
  const lit: Lit = playing ?? row;
  const danger = row.hazards.flatMap((i) => wire.hazards[i] ?? []);
  const go = (to: number) => {
    if (to < 0 || to >= wire.rows.length) return;
    const from = Math.min(at, wire.rows.length - 1);
    setAt(to);
    setOver(null);
    rows.current[to]?.focus();
    if (from === to) return;
    // The call is played from the row in hand; where that cannot be had the new row is shown at once.
    void wayBetween(page.job.id, from, to).then(
      (found) => {
        setFrame(0);
        setMoments(found.length > 1 ? found : null);
      },
      () => setMoments(null),
    );
  };
  const onKey = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (by) {
      event.preventDefault();
      event.stopPropagation();
      go(shown + by);
    }
  };
  return (
    <div className={`grid gap-x-6 gap-y-3 ${alone ? '' : 'grid-cols-[minmax(0,5fr)_minmax(0,6fr)] max-[1000px]:grid-cols-1'}`}>
      <div className={alone ? 'hidden' : 'min-w-0'}>
        <div className="max-h-[430px] overflow-auto max-[1000px]:max-h-[300px]">
          <table className="w-full border-collapse text-body" aria-label="Truth table">
            <thead className="sticky top-0 bg-paper">
              <tr className="align-bottom text-note">
                {wire.columns.map((c) => (
                  <th key={c} scope="col" className="quiet px-1 text-left font-normal">
                    <Split name={c} />
                  </th>
                ))}
                {parts.map((p, i) => (
                  <th key={p} scope="col" className={`px-1 text-left font-bold ${i === 0 ? 'border-l border-ink pl-3' : ''}`}>
                    {p}
                  </th>
                ))}
                <th scope="col" className="quiet px-1 text-right font-normal">
                  VA
                </th>
              </tr>
            </thead>
            <tbody>
              {wire.rows.map((r, i) => (
                <tr
                  key={i}
                  ref={(e) => {
                    rows.current[i] = e;
                  }}
                  tabIndex={i === shown ? 0 : -1}
                  aria-selected={i === at}
                  className={`h-7 cursor-pointer border-t border-rule ${i === shown ? 'bg-shade' : ''} ${r.unmet.length ? 'outline-1 outline-copper' : ''}`}
                  onClick={() => go(i)}
                  onMouseEnter={() => setOver(i)}
                  onMouseLeave={() => setOver(null)}
                  onKeyDown={onKey}
                >
                  {r.cells.map((c, k) => (
                    <td key={k} className={`mono px-1 ${r.marks[k] ? 'font-bold' : 'quiet'}`}>
                      {c === 'yes' ? '●' : c || '·'}
                    </td>
                  ))}
                  {r.runs.map((run, k) => (
                    <td
                      key={run.part}
                      className={`px-1 whitespace-nowrap ${k === 0 ? 'border-l border-ink pl-3' : ''} ${run.on ? 'font-bold text-copper' : 'quiet'}`}
                    >
                      {run.words}
                    </td>
                  ))}
                  <td className="mono px-1 text-right whitespace-nowrap">
                    {r.va}
                    {r.settled !== 'yes' && <span className="ml-1 text-copper">{r.settled}</span>}
                    {r.hazards.length > 0 && <span title="dangerous here"> ▲</span>}
                    {r.unmet.length > 0 && <span title={r.unmet.join(', ')}> ≠</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <RowWords row={row} wire={wire} />
      </div>
      <div className="min-w-0">
        <div className="flex items-center justify-between gap-4">
          <p className="quiet text-note" role="status">
            {playing ? `${frame + 1} of ${moments?.length ?? 0}${playing.for_s ? `, waits ${playing.for_s} s` : ''}` : said(wire, row)}
          </p>
          <button type="button" className="link-button text-note" aria-pressed={alone} onClick={() => setAlone(!alone)}>
            {alone ? 'table beside it' : 'drawing alone'}
          </button>
        </div>
        <div className={alone ? '' : 'max-h-[520px] overflow-auto'}>
          <Sheet
            sheet={wire.sheet}
            lit={lit}
            label={`Circuit, ${said(wire, row)}`}
            flags={danger.flatMap((h) => h.flag ?? [])}
            danger={{ nets: danger.flatMap((h) => h.nets), parts: danger.flatMap((h) => h.parts), pins: danger.flatMap((h) => h.pins) }}
          />
        </div>
        <p className="quiet text-note">
          <span className="text-copper">thick copper</span>: on the mains · <span className="text-flow">thin copper</span>: low voltage, hot · dashed: earth
        </p>
      </div>
      <Hazards wire={wire} />
    </div>
  );
}

function Split({ name }: { name: string }) {
  const [part, call] = name.split('.');
  return (
    <>
      <span className="block">{part}</span>
      {call && <span className="block font-semibold text-ink">{call}</span>}
    </>
  );
}

const said = (wire: WirePage, row: WireRow) =>
  row.cells
    .map((c, i) => (c === 'yes' ? wire.columns[i] : c && row.marks[i] ? `${wire.columns[i]} ${c}` : ''))
    .filter(Boolean)
    .join(', ') || 'nothing called';

/** What belongs to the row in hand beside its cells. */
function RowWords({ row, wire }: { row: WireRow; wire: WirePage }) {
  return (
    <div className="mt-2 space-y-0.5 text-body">
      {row.unmet.map((u) => (
        <p key={u} className="text-copper">
          ≠ {u}
        </p>
      ))}
      {row.air.map((x) => (
        <p key={x} className="text-air">
          {x}
        </p>
      ))}
      {row.interim.slice(0, 3).map((x) => (
        <p key={x} className="quiet">
          before it settles, {x}
        </p>
      ))}
      {row.also.map((x) => (
        <p key={x} className="quiet">
          it may also rest, by what came before: {x}
        </p>
      ))}
      {row.read.text && (
        <p className="flex items-center gap-2">
          live: <VerdictWord verdict={row.read.verdict} /> <span className="quiet text-note">{row.read.told}</span>
        </p>
      )}
      {wire.never.length > 0 && <p className="text-copper">never, in any row: {wire.never.join(', ')}</p>}
    </div>
  );
}

/** All hazards, the worst first, with what to do. */
function Hazards({ wire }: { wire: WirePage }) {
  if (wire.hazards.length === 0) {
    return <p className="quiet col-span-full border-t border-rule pt-2">No hazard found in any row, nor on the way from one to the next.</p>;
  }
  return (
    <section aria-label="Hazards" className="col-span-full border-t border-ink pt-2">
      <h2 className="heading">Hazards</h2>
      <ul>
        {wire.hazards.map((h, i) => (
          <li
            key={i}
            className="row-line grid grid-cols-[92px_minmax(0,1fr)_minmax(0,1fr)_minmax(0,1fr)] gap-x-4 py-1 max-[900px]:grid-cols-[92px_minmax(0,1fr)]"
          >
            <span className={h.severity === 'danger' ? 'font-bold text-copper' : h.severity === 'damage' ? 'font-bold text-caution' : ''}>▲ {h.severity}</span>
            <span className="font-semibold">{h.words}</span>
            <span className="quiet">{h.when}</span>
            <span>{h.remedy}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
