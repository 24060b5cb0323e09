import { useState } from 'react';
import type { Problem } from '../../api/client';
import { unlessKept } from '../../api/save';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import type { SaveWiring, WirePage } from './api';
import { ListsForm } from './ListsForm';
import { Sheet } from './Sheet';

const KINDS = [
  'supply', 'transformer', 'relay', 'switch', 'thermostat', 'fuse', 'strip', 'box', 'load', 'lamp', 'capacitor', 'resistor', 'motor', 'ec-motor', 'ec-fan',
  'pot', 'sensor',
] as const; // prettier-ignore

/** Terminals and wires, typed: a terminal, and where it goes. The drawing follows. */
export function Editor({ wire, save }: { wire: WirePage; save: SaveWiring }) {
  const [picked, setPicked] = useState(wire.parts[0]?.id ?? '');
  const [from, setFrom] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const part = wire.parts.find((p) => p.id === picked) ?? wire.parts[0];
  const deed = (edit: Parameters<SaveWiring>[0], mine: string) => save(edit, mine).then((p) => (setProblem(unlessKept(p)), p));
  const row = wire.rows[0];
  if (!wire.sheet || !row) return null;
  return (
    <div className="grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-x-6 gap-y-3 max-[1000px]:grid-cols-1">
      <div className="min-w-0 space-y-3">
        <Join wire={wire} from={from} setFrom={setFrom} onJoin={(a, b) => deed({ deed: 'join', what: a, to: b }, `${a} to ${b}`)} />
        <Refusal problem={problem} />
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <label className="quiet text-note" htmlFor="wire-part">
            part
          </label>
          <select id="wire-part" className="input w-auto!" value={part?.id ?? ''} onChange={(e) => setPicked(e.target.value)}>
            {wire.parts.map((p) => (
              <option key={p.id} value={p.id}>
                {p.id}, {p.kind}
              </option>
            ))}
          </select>
          <select
            aria-label="add a part"
            className="input w-auto!"
            value=""
            onChange={(e) => e.target.value && void deed({ deed: 'add', what: e.target.value }, `a ${e.target.value}`)}
          >
            <option value="">add a part…</option>
            {KINDS.map((k) => (
              <option key={k} value={k}>
                {k}
              </option>
            ))}
          </select>
          {part && (
            <button type="button" className="link-button" onClick={() => void deed({ deed: 'remove', what: part.id }, `without ${part.id}`)}>
              take {part.id} out
            </button>
          )}
          {part &&
            (['up', 'down'] as const).map((way) => (
              <button
                key={way}
                type="button"
                className="link-button"
                aria-label={`${part.id} further ${way} in the list`}
                onClick={() => void deed({ deed: 'move', what: part.id, to: way }, `${part.id} further ${way}`)}
              >
                {way === 'up' ? '↑' : '↓'}
              </button>
            ))}
        </div>
        {part && (
          <section aria-label={`Part ${part.id}`} className="space-y-2" key={part.id}>
            <div className="grid grid-cols-3 gap-x-4 gap-y-1">
              <ValueField
                inputId="wire-name"
                label="name"
                text={part.id}
                onCommit={(to) => deed({ deed: 'rename', what: part.id, to }, to).then((p) => (p ? p : (setPicked(to), null)))}
              />
              {part.values.map((v) => (
                <ValueField
                  key={v.key}
                  inputId={`wire-${v.key}`}
                  label={v.label}
                  text={v.text}
                  hint={v.hint}
                  onCommit={(to) => deed({ deed: 'set', what: part.id, key: v.key, to }, to)}
                />
              ))}
            </div>
            <ul aria-label={`Terminals of ${part.id}`}>
              {part.terminals.map((t) => (
                <li key={t.terminal} className="row-line grid grid-cols-[110px_minmax(0,1fr)_120px] items-center gap-x-3">
                  <button type="button" className="mono link-button text-left font-semibold" onClick={() => setFrom(t.terminal)}>
                    {t.terminal}
                  </button>
                  {t.net ? (
                    <ValueField
                      inputId={`wire-net-${t.terminal}`}
                      label={`net at ${t.terminal}`}
                      bare
                      mono={false}
                      text={t.net}
                      onCommit={(to) => deed({ deed: 'rename-net', what: t.net, to }, `net ${to}`)}
                    />
                  ) : (
                    <span className="quiet">free</span>
                  )}
                  {t.net && (
                    <button
                      type="button"
                      className="link-button"
                      aria-label={`free ${t.terminal}`}
                      onClick={() => void deed({ deed: 'free', what: t.terminal }, `${t.terminal} free`)}
                    >
                      free it
                    </button>
                  )}
                </li>
              ))}
            </ul>
            <details>
              <summary className="min-h-8 cursor-pointer text-note">the part as it is kept: contacts, positions, calls, sections</summary>
              <ValueField
                inputId="wire-body"
                label={`${part.id} as it is kept`}
                text={part.body}
                lines={5}
                onCommit={(text) => {
                  let body: unknown;
                  try {
                    body = JSON.parse(text);
                  } catch {
                    return Promise.resolve({
                      type: 'input',
                      title: '',
                      status: 0,
                      detail: 'cannot be read: braces, commas and quotes as before',
                      allowed: '',
                    } as Problem);
                  }
                  return deed({ deed: 'put', what: part.id, body }, part.id);
                }}
              />
            </details>
          </section>
        )}
        <ListsForm lists={wire.lists} save={save} />
      </div>
      <div className="max-h-[560px] min-w-0 overflow-auto">
        <Sheet
          sheet={wire.sheet}
          lit={{ closed: [], alive: [], hot: [], on: [] }}
          label="Circuit"
          picked={from}
          onPin={(terminal) => {
            setPicked(terminal.split('.')[0] ?? '');
            if (from && from !== terminal) {
              void deed({ deed: 'join', what: from, to: terminal }, `${from} to ${terminal}`);
              setFrom('');
            } else setFrom(terminal);
          }}
        />
        <p className="quiet text-note">Press a terminal, then where it goes. A ring stands for a free one.</p>
      </div>
    </div>
  );
}

/** One wire, typed. */
function Join({
  wire,
  from,
  setFrom,
  onJoin,
}: {
  wire: WirePage;
  from: string;
  setFrom: (text: string) => void;
  onJoin: (a: string, b: string) => Promise<Problem | null>;
}) {
  const [to, setTo] = useState('');
  const terminals = wire.parts.flatMap((p) => p.terminals.map((t) => t.terminal));
  return (
    <form
      className="flex flex-wrap items-end gap-x-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (!from.trim() || !to.trim()) return;
        void onJoin(from.trim(), to.trim()).then((p) => {
          if (p) return;
          setFrom('');
          setTo('');
          document.getElementById('wire-from')?.focus();
        });
      }}
    >
      <div>
        <label htmlFor="wire-from" className="quiet block text-note">
          terminal
        </label>
        <input
          id="wire-from"
          list="wire-terminals"
          className="input mono w-[150px]!"
          placeholder="like K1.COM"
          value={from}
          onChange={(e) => setFrom(e.target.value)}
          autoComplete="off"
        />
      </div>
      <div>
        <label htmlFor="wire-to" className="quiet block text-note">
          goes to: terminal or net
        </label>
        <input
          id="wire-to"
          list="wire-ends"
          className="input mono w-[170px]!"
          placeholder="like M.HI"
          value={to}
          onChange={(e) => setTo(e.target.value)}
          autoComplete="off"
        />
      </div>
      <button type="submit" className="button">
        Wire it
      </button>
      <datalist id="wire-terminals">
        {terminals.map((t) => (
          <option key={t} value={t} />
        ))}
      </datalist>
      <datalist id="wire-ends">
        {[...wire.nets, ...terminals].map((t) => (
          <option key={t} value={t} />
        ))}
      </datalist>
    </form>
  );
}
