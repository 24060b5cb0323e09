import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { Link, useLocation, useNavigate, useParams, useSearchParams } from 'react-router';
import { problemOf } from '../api/client';
import { Keys } from '../ui/Keys';
import { useTheme } from '../ui/theme';
import { useKeys } from '../ui/useKeys';
import { when } from '../ui/when';
import { WhoField } from '../ui/who';
import { CardView } from './desk/CardView';
import { useDesk, type Card, type Given, type Kept } from './desk/api';

/** Single calculations without a job: a strip for each card, and the one that is open. */
export default function Desk() {
  const { card: key } = useParams();
  const [search, setSearch] = useSearchParams();
  const desk = useDesk();
  const navigate = useNavigate();
  const [find, setFind] = useState('');
  const [keys, setKeys] = useState(false);
  const [, turnTheme] = useTheme();
  const findRef = useRef<HTMLInputElement>(null);
  const listRef = useRef<HTMLElement>(null);
  const cards = desk.data?.cards ?? [];
  const open = cards.find((c) => c.key === key);
  const shown = useMemo(() => matching(desk.data?.cards ?? [], find), [desk.data, find]);
  useEffect(() => {
    document.title = `${open?.name ?? 'Desk'} · fenwit`;
  }, [open]);
  useKeys('desk', {
    find: () => findRef.current?.focus(),
    bench: () => void navigate('/'),
    shelf: () => void navigate('/shelf'),
    theme: turnTheme,
    keys: () => setKeys(true),
  });
  // What is typed stands here at once; the address follows a moment later and is only read where somebody else set it.
  const location = useLocation();
  const [at, setAt] = useState(location.key);
  const [given, setGiven] = useState<Given>(() => Object.fromEntries(search));
  if (location.key !== at && (location.state as { typed?: boolean } | null)?.typed !== true) {
    setAt(location.key);
    setGiven(Object.fromEntries(search));
  }
  const onGiven = useCallback(
    (next: Given) => {
      setGiven(next);
      setSearch({ ...next }, { replace: true, state: { typed: true } });
    },
    [setSearch],
  );
  const turnTo = (card: Card) => void navigate(`/desk/${card.key}?${new URLSearchParams(card.start).toString()}`);
  const walk = (event: KeyboardEvent) => {
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    const strips = [...(listRef.current?.querySelectorAll<HTMLElement>('a') ?? [])];
    const at = strips.indexOf(document.activeElement as HTMLElement);
    const next = strips[at < 0 ? 0 : Math.min(strips.length - 1, Math.max(0, at + (event.key === 'ArrowDown' ? 1 : -1)))];
    next?.focus();
    event.preventDefault();
  };
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-[54px] shrink-0 items-center gap-8 border-b border-rule px-5 max-[900px]:gap-4">
        <Link to="/" className="mono text-title font-bold text-copper" aria-label="fenwit, to the Bench">
          fenwit
        </Link>
        <Link to="/" className="link-button inline-flex items-center">
          Bench
        </Link>
        <Link to="/shelf" className="link-button inline-flex items-center">
          Shelf
        </Link>
        <h1 className="text-lead font-bold">Desk</h1>
        <div className="ml-auto flex items-center gap-5 text-body max-[900px]:gap-3">
          <WhoField />
          <button type="button" className="link-button quiet" onClick={() => setKeys(true)}>
            <span className="mono">?</span> keys
          </button>
        </div>
      </header>
      <div className="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)] max-[900px]:grid-cols-[210px_minmax(0,1fr)] short:block">
        <nav ref={listRef} aria-label="Cards" className="min-h-0 overflow-auto border-r border-rule px-4 py-2 short:border-r-0">
          <label className="flex items-center gap-2 pb-1">
            <span className="quiet">find</span>
            <input
              ref={findRef}
              className="input"
              value={find}
              maxLength={80}
              placeholder="any word: triac, pulses, cfm"
              onChange={(e) => setFind(e.target.value)}
              onKeyDown={(e) => {
                const first = shown[0];
                if (e.key === 'Enter' && first) turnTo(first);
                else walk(e);
              }}
            />
          </label>
          {desk.isPending && <p className="quiet">Fetching the cards…</p>}
          {desk.isError && <p role="alert">{problemOf(desk.error).detail}</p>}
          {desk.isSuccess && shown.length === 0 && <p className="quiet">No card has this word.</p>}
          {grouped(shown).map(([group, strips]) => (
            <section key={group} aria-label={group}>
              <h2 className="quiet pt-2 text-note">{group}</h2>
              {strips.map((c) => (
                <Link
                  key={c.key}
                  to={`/desk/${c.key}?${new URLSearchParams(c.start).toString()}`}
                  onKeyDown={walk}
                  aria-current={c.key === key ? 'page' : undefined}
                  className={`row-line flex min-h-10 items-center border-l-[3px] py-1 pl-2 leading-tight hover:bg-shade ${
                    c.key === key ? 'border-l-copper font-bold' : 'border-l-transparent'
                  }`}
                >
                  {c.name}
                </Link>
              ))}
            </section>
          ))}
        </nav>
        <main className="min-h-0 overflow-auto px-6 py-3 max-[900px]:px-4">
          {open ? (
            <CardView key={open.key} card={open} given={given} onGiven={onGiven} known={(desk.data?.kept ?? []).filter((k) => k.card === open.key)} />
          ) : (
            desk.isSuccess && <Front kept={desk.data.kept} cards={cards} unknown={key !== undefined} />
          )}
        </main>
      </div>
      <Keys open={keys} onOpenChange={setKeys} />
    </div>
  );
}

/** Cards that have every word somewhere: in their name, their fields, or among the words they are found by. */
function matching(cards: readonly Card[], find: string): Card[] {
  const words = find.toLowerCase().split(/\s+/);
  return cards.filter((c) => {
    const all = [c.name, c.key, c.group, c.words, c.relation, ...c.fields.flatMap((f) => [f.label, f.unit, f.words])].join(' ').toLowerCase();
    return words.every((w) => all.includes(w));
  });
}

function grouped(cards: readonly Card[]): [string, Card[]][] {
  const groups = new Map<string, Card[]>();
  for (const card of cards) groups.set(card.group, [...(groups.get(card.group) ?? []), card]);
  return [...groups];
}

/** Before a card is open: how it goes, and what was worked out last. */
function Front({ kept, cards, unknown }: { kept: readonly Kept[]; cards: readonly Card[]; unknown: boolean }) {
  return (
    <div className="max-w-3xl">
      {unknown && <p role="alert">There is no such card.</p>}
      <p className="heading pt-1">Take a card from the left: each opens with an example.</p>
      <p className="pt-1">
        The field left blank is the one computed; it stands in copper. Values are typed as they are printed on parts: <span className="mono">2u7</span>,{' '}
        <span className="mono">4k7</span>, <span className="mono">1400 m³/h</span>; <span className="mono">10k ±5%</span> says how sure one is, and the answer
        then carries a band.
      </p>
      {kept.length > 0 && (
        <section aria-label="Worked out last" className="pt-4">
          <h2 className="quiet text-note">worked out last</h2>
          {kept.map((k) => (
            <Link
              key={k.id}
              to={`/desk/${k.card}?${new URLSearchParams(k.given).toString()}`}
              className="row-line flex min-h-10 items-center gap-4 hover:bg-shade"
            >
              <span className="quiet w-36 shrink-0 text-note">{when(k.at)}</span>
              <span className="w-56 shrink-0 truncate">{cards.find((c) => c.key === k.card)?.name ?? k.card}</span>
              <span className="mono min-w-0 flex-1 truncate text-note text-copper">{k.said}</span>
            </Link>
          ))}
        </section>
      )}
    </div>
  );
}
