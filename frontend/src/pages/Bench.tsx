import { useEffect, useMemo, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { problemOf, useCards, type Schemas } from '../api/client';
import { SmallStaff } from '../instruments/SmallStaff';
import { Keys } from '../ui/Keys';
import { typing } from '../ui/keyboard';
import { NewJob } from './NewJob';

type Card = Schemas['Card'];

const FILTERS: [string, string][] = [
  ['identify', 'to be identified'],
  ['reading', 'waiting for a reading'],
  ['aim', 'to be aimed'],
  ['size', 'to be sized'],
  ['prove', 'to be proved'],
  ['proved', 'proved'],
  ['refused', 'refused'],
];

/** Every job in hand as an upright staff in a row. */
export function Bench() {
  const cards = useCards();
  const navigate = useNavigate();
  const [filter, setFilter] = useState('all');
  const [find, setFind] = useState('');
  const [adding, setAdding] = useState(false);
  const [keys, setKeys] = useState(false);
  const findRef = useRef<HTMLInputElement>(null);
  useEffect(() => {
    document.title = 'Bench · fenwit';
    const onKey = (event: KeyboardEvent) => {
      if (typing(event)) return;
      if (event.key === 'n') {
        event.preventDefault();
        setAdding(true);
      } else if (event.key === '/') {
        event.preventDefault();
        findRef.current?.focus();
      } else if (event.key === '?') setKeys(true);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const all = useMemo(() => cards.data ?? [], [cards.data]);
  const shown = all.filter((c) => (filter === 'all' || c.waits_kind === filter) && matches(c, find));
  const demo = all.find((c) => c.waits_kind === 'size') ?? all[0];
  const tall = shown.length <= 9;
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-[54px] shrink-0 items-center gap-8 border-b border-rule px-5">
        <Link to="/" className="mono text-[18px] font-bold text-copper">
          fenwit
        </Link>
        <h1 className="text-[16px] font-bold">Bench</h1>
        <button type="button" className="link-button quiet ml-auto" onClick={() => setKeys(true)}>
          <span className="mono">?</span> keys
        </button>
        <button type="button" className="button" onClick={() => setAdding(true)}>
          New job <span className="mono ml-2 font-normal">n</span>
        </button>
      </header>
      <nav aria-label="Filter" className="flex shrink-0 flex-wrap items-center gap-x-7 px-5 pt-2">
        <Filter on={filter === 'all'} onClick={() => setFilter('all')} text="All" count={all.length} />
        {FILTERS.map(([key, text]) => {
          const count = all.filter((c) => c.waits_kind === key).length;
          return count > 0 || filter === key ? (
            <Filter key={key} on={filter === key} onClick={() => setFilter(key)} text={text} count={count} />
          ) : null;
        })}
        <label className="ml-auto flex items-center gap-2">
          <span className="quiet">find</span>
          <input ref={findRef} className="input w-48!" value={find} onChange={(e) => setFind(e.target.value)} />
        </label>
      </nav>
      <main className="min-h-0 flex-1 overflow-auto px-8 pt-8">
        {cards.isPending && <p className="quiet">Fetching the jobs…</p>}
        {cards.isError && <p role="alert">{problemOf(cards.error).detail}</p>}
        {cards.isSuccess && all.length === 0 && (
          <div className="max-w-md pt-10">
            <p className="heading mb-2">No fan in hand yet.</p>
            <p className="quiet mb-4">Start with its name and where it hangs; the rest comes as you find it out.</p>
            <button type="button" className="button button-main" onClick={() => setAdding(true)}>
              New job
            </button>
          </div>
        )}
        {all.length > 0 && shown.length === 0 && <p className="quiet">Nothing matches.</p>}
        <ul className="flex flex-wrap gap-x-6 gap-y-8">
          {shown.map((card) => (
            <li key={card.id} className="w-[150px]">
              <Link to={`/jobs/${card.id}`} className="block pl-2" aria-label={spoken(card)}>
                <SmallStaff card={card} height={tall ? 450 : 260} />
                <span className="mt-3 block text-[16px] font-bold break-words">{card.name}</span>
                <span className="quiet block text-[14px]">{card.place || ' '}</span>
                <span className={`mt-1.5 block text-[15px] ${urgent(card) ? 'text-copper' : ''}`}>{card.waits_for}</span>
              </Link>
            </li>
          ))}
        </ul>
        {all.length === 2 && demo && filter === 'all' && find === '' && (
          <p className="quiet mt-8 max-w-[560px] pl-2 text-[14px]">
            Each staff is one fan: notches are the speeds wanted, bars the speeds expected, dots the speeds read. New here?{' '}
            <button type="button" className="underline" onClick={() => void navigate(`/jobs/${demo.id}/size`)}>
              Choose a bank for {demo.name}
            </button>
            .
          </p>
        )}
      </main>
      <NewJob open={adding} onOpenChange={setAdding} />
      <Keys open={keys} onOpenChange={setKeys} />
    </div>
  );
}

function Filter({ on, onClick, text, count }: { on: boolean; onClick: () => void; text: string; count: number }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      className={`h-11 border-b-[3px] ${on ? 'border-copper font-bold' : 'quiet border-transparent'}`}
    >
      {text} {count}
    </button>
  );
}

const urgent = (card: Card) =>
  card.refused || card.marks.some((m) => m.measured_verdict === 'fail') || card.waits_for.includes('find out why');

function matches(card: Card, find: string): boolean {
  const text = [card.name, card.place, card.wish, card.kind_name, card.waits_for].join(' ').toLowerCase();
  return find.toLowerCase().split(/\s+/).every((word) => text.includes(word));
}

function spoken(card: Card): string {
  const marks = card.marks.map((m) => `step ${m.step} ${m.share_text}${m.measured_verdict ? ` ${m.measured_verdict}` : ''}`);
  return [card.name, card.place, card.waits_for, ...marks].filter(Boolean).join(', ');
}
