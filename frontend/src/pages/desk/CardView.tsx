import { useQueryClient } from '@tanstack/react-query';
import { useId, useState, type KeyboardEvent } from 'react';
import { problemOf, type Problem } from '../../api/client';
import { useWho } from '../../ui/who';
import { when } from '../../ui/when';
import { SendInto } from './SendInto';
import { SweptPlot } from './SweptPlot';
import { asking, useAnswer, useKeep, useKept, type Answer, type Card, type FieldOf, type Given, type Kept, type Sweep } from './api';

interface Props {
  card: Card;
  given: Given;
  onGiven: (given: Given) => void;
  known: readonly Kept[];
}

/** One card: its fields, of which the blank one is computed, and what it found. */
export function CardView({ card, given, onGiven, known }: Props) {
  const [over, setOver] = useState('');
  // The ends of the plot stay where they were when dragging began; `at` is where the handle is, until it is let go.
  const [drag, setDrag] = useState<{ over: string; low: number; high: number; at?: number } | null>(null);
  const client = useQueryClient();
  const { who } = useWho();
  const keep = useKeep(card.key, who);
  const kept = useKept(card.key, known);
  const sweep =
    over === '' ? null : drag?.over === over ? { over, low: drag.low, high: drag.high, ...(drag.at === undefined ? {} : { at: drag.at }) } : { over };
  const asked = useAnswer(card.key, given, sweep);
  const problem = asked.isError ? problemOf(asked.error) : null;
  const found = problem ? null : (asked.data?.answer ?? null);
  const lacking = problem ? null : (asked.data?.lacking ?? null);
  const draggable = found?.draggable ?? [];
  if (over === '' && draggable[0]) setOver(draggable[draggable.length - 1] ?? '');
  if (over !== '' && found && draggable.length > 0 && !draggable.includes(over)) setOver(draggable[draggable.length - 1] ?? '');
  /** Let go: the field takes the value as the server writes it. */
  const settle = async (now: Sweep & { low: number; high: number }) => {
    const said = await client.fetchQuery(asking(card.key, given, now)).catch(() => null);
    if (said?.answer) onGiven(said.answer.given);
    setDrag({ over: now.over, low: now.low, high: now.high });
  };
  const here = drag?.at === undefined ? given : (found?.given ?? given);
  const set = (name: string, text: string) => {
    setDrag(null);
    onGiven(Object.fromEntries(Object.entries({ ...given, [name]: text }).filter(([, t]) => t !== '')));
  };
  const commit = () => {
    if (found && Object.keys(given).length > 0) keep.mutate(given);
  };
  const swept = found?.swept ?? null;
  return (
    <article aria-label={card.name} className="min-w-0">
      <header className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <h2 className="text-title font-bold">{card.name}</h2>
        <p className="mono quiet">{card.relation}</p>
        <span className="ml-auto flex gap-4 text-body">
          <button type="button" className="link-button" onClick={() => onGiven(card.start)}>
            example
          </button>
          <button type="button" className="link-button" onClick={() => onGiven({})}>
            all blank
          </button>
        </span>
      </header>
      <div className="grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-x-8 pt-2 max-[1000px]:grid-cols-1">
        <div className="grid auto-rows-min grid-cols-2 gap-x-5 gap-y-0.5">
          {card.fields.map((field) => (
            <DeskField
              key={field.name}
              field={field}
              text={here[field.name] ?? ''}
              answer={found}
              problem={problem?.field === field.name ? problem : null}
              wanted={lacking?.field === field.name}
              onText={(text) => set(field.name, text)}
              onCommit={commit}
            />
          ))}
        </div>
        <div className="min-w-0">
          {problem && !card.fields.some((f) => f.name === problem.field) && (
            <p role="alert" className="text-copper">
              {problem.detail}
            </p>
          )}
          {problem && <p className="quiet pt-1">No answer while a value is refused.</p>}
          {lacking && (
            <p role="status" className="pt-1">
              Leave blank what is to be computed, and fill in the rest: {lacking.text}. <span className="quiet">Wanted: {lacking.wanted}</span>
            </p>
          )}
          {found && <FoundView card={card} found={found} />}
          {swept && (
            <section aria-label="Over one field" className="pt-2">
              <label className="flex items-center gap-2 text-note">
                <span className="quiet">over</span>
                <select
                  className="input w-auto! text-body"
                  value={over}
                  onChange={(e) => {
                    setDrag(null);
                    setOver(e.target.value);
                  }}
                >
                  {draggable.map((name) => (
                    <option key={name} value={name}>
                      {card.fields.find((f) => f.name === name)?.label ?? name}
                    </option>
                  ))}
                </select>
                <span className="quiet">drag the handle: the field follows</span>
              </label>
              <SweptPlot
                swept={swept}
                text={here[swept.over] ?? ''}
                onDrag={(at, done) => {
                  const now = { over: swept.over, low: swept.at[0] ?? at, high: swept.at[swept.at.length - 1] ?? at, at };
                  setDrag(now);
                  if (done) void settle(now);
                }}
              />
            </section>
          )}
        </div>
      </div>
      <KeptCalls kept={kept.data ?? []} onTake={onGiven} />
    </article>
  );
}

interface DeskFieldProps {
  field: FieldOf;
  text: string;
  answer: Answer | null;
  problem: Problem | null;
  wanted: boolean;
  onText: (text: string) => void;
  onCommit: () => void;
}

function DeskField({ field, text, answer, problem, wanted, onText, onCommit }: DeskFieldProps) {
  const id = useId();
  const solved = text === '' ? answer?.found.find((f) => f.name === field.name) : undefined;
  const assumed = text === '' ? (answer?.assumed[field.name] ?? field.default) : '';
  const wide = field.kind === 'numbers' || field.kind === 'text';
  const note = problem ? problem.detail : field.words;
  const onKey = (event: KeyboardEvent<HTMLElement>) => {
    if (event.key === 'Enter') {
      event.preventDefault();
      onCommit();
    }
  };
  const shared = { id, 'aria-invalid': problem !== null, 'aria-describedby': `${id}-note`, onBlur: onCommit, onKeyDown: onKey };
  return (
    <div className={wide ? 'col-span-2 min-w-0 pb-1' : 'min-w-0 pb-1'}>
      <label htmlFor={id} className={`block text-note ${wanted ? 'font-semibold text-copper' : 'quiet'}`}>
        {field.label}
        {field.unit && <span className="quiet font-normal"> {field.unit}</span>}
      </label>
      {field.kind === 'choice' || field.kind === 'yes' ? (
        <select {...shared} className="input" value={text} onChange={(e) => onText(e.target.value)}>
          <option value="">{field.default || ''}</option>
          {(field.kind === 'yes' ? ['yes', 'no'] : field.choices)
            .filter((c) => c !== field.default)
            .map((c) => (
              <option key={c}>{c}</option>
            ))}
        </select>
      ) : (
        <input
          {...shared}
          className={`input mono ${solved ? 'computed' : ''}`}
          value={text}
          autoComplete="off"
          maxLength={2000}
          placeholder={solved ? solved.text : assumed || field.example}
          onChange={(e) => onText(e.target.value)}
        />
      )}
      <p id={`${id}-note`} role={problem ? 'alert' : undefined} className={`text-note ${problem ? 'text-copper' : 'quiet'}`}>
        {solved && <span className="sr-only">computed: {solved.text}. </span>}
        {solved?.band ? <span className="text-copper">{solved.band}</span> : note}
        {problem?.allowed && <span className="quiet"> — {problem.allowed}</span>}
      </p>
    </div>
  );
}

function FoundView({ card, found }: { card: Card; found: Answer }) {
  const [copied, setCopied] = useState(false);
  const copy = (text: string) => {
    void navigator.clipboard.writeText(text).then(() => setCopied(true));
  };
  return (
    <div aria-live="polite">
      <table className="w-full text-body" aria-label="Answer">
        <tbody>
          {found.found.map((f) => (
            <tr key={f.name} className="row-line">
              <th scope="row" className={`py-0.5 text-left font-normal ${f.solved ? 'text-copper' : 'quiet'}`}>
                {f.label}
              </th>
              <td className={`mono text-right whitespace-nowrap ${f.solved ? 'text-lead font-bold text-copper' : ''}`}>{f.text}</td>
              <td className="quiet mono pl-3 text-right text-note whitespace-nowrap">{f.band}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {found.tables.map((table, i) => (
        <div key={i} className="max-h-40 overflow-auto pt-2">
          <table className="w-full text-note" aria-label="Other ways">
            <thead className="quiet text-left">
              <tr>
                {table.heads.map((h) => (
                  <th key={h} className="pr-3 font-normal">
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody className="mono">
              {table.rows.map((row, j) => (
                <tr key={j} className="row-line">
                  {row.map((cell, k) => (
                    <td key={k} className="py-0.5 pr-3">
                      {cell}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ))}
      <p className="mono pt-2 text-note break-words">{found.relation}</p>
      {found.warnings.map((w) => (
        <p key={w.code} className="text-note text-caution">
          △ {w.text}
        </p>
      ))}
      {card.validity && <p className="quiet text-note">holds for: {card.validity}</p>}
      <p className="flex gap-5 text-body">
        <button type="button" className="link-button" onClick={() => copy(found.copy)}>
          copy as text
        </button>
        <button type="button" className="link-button" onClick={() => copy(window.location.href)}>
          copy a link
        </button>
        <SendInto card={card.key} given={found.given} sends={found.sends} />
        <span role="status" className="quiet self-center">
          {copied ? 'copied' : ''}
        </span>
      </p>
    </div>
  );
}

function KeptCalls({ kept, onTake }: { kept: readonly Kept[]; onTake: (given: Given) => void }) {
  if (kept.length === 0) return null;
  return (
    <section aria-label="Worked out before" className="pt-3">
      <h3 className="quiet text-note">worked out before</h3>
      <ul>
        {kept.map((k) => (
          <li key={k.id} className="row-line">
            <button type="button" className="flex min-h-10 w-full items-center gap-4 text-left hover:bg-shade" onClick={() => onTake(k.given)}>
              <span className="quiet w-36 shrink-0 text-note">{when(k.at)}</span>
              <span className="mono min-w-0 flex-1 truncate text-note">
                <span className="text-copper">{k.said}</span> ← {Object.values(k.given).join(' · ')}
              </span>
              <span className="quiet text-note">{k.who}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
