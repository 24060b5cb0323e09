import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { isProblem, jobKey, OFFLINE, problemOf, Refusal, useCards, type JobPageData, type Schemas } from '../api/client';
import { SmallStaff } from '../instruments/SmallStaff';
import { pathOf } from '../job/spot';
import { Keys } from '../ui/Keys';
import { useTheme } from '../ui/theme';
import { useKeys } from '../ui/useKeys';
import { NewJob } from './NewJob';

type Card = Schemas['Card'];

const FILTERS: [string, string][] = [
  ['identify', 'to be identified'],
  ['reading', 'waiting for a reading'],
  ['aim', 'to be aimed'],
  ['size', 'to be sized'],
  ['prove', 'to be proved'],
  ['fault', 'find out why'],
  ['proved', 'proved'],
  ['unsized', 'not sized here yet'],
  ['refused', 'refused'],
];

/** Every job in hand as an upright staff in a row. */
export default function Bench() {
  const navigate = useNavigate();
  const [filter, setFilter] = useState<string | null>(null);
  const [find, setFind] = useState('');
  const [starts, setStarts] = useState<number[]>([0]);
  const [adding, setAdding] = useState(false);
  const [keys, setKeys] = useState(false);
  const [, turnTheme] = useTheme();
  const findRef = useRef<HTMLInputElement>(null);
  const fileRef = useRef<HTMLInputElement>(null);
  const after = starts[starts.length - 1] ?? 0;
  const cards = useCards(filter, find, after);
  const bring = useImport();
  useEffect(() => {
    document.title = 'Bench · fenwit';
  }, []);
  useKeys('bench', {
    new: () => setAdding(true),
    find: () => findRef.current?.focus(),
    shelf: () => void navigate('/shelf'),
    desk: () => void navigate('/desk'),
    theme: turnTheme,
    keys: () => setKeys(true),
  });
  const narrow = (change: () => void) => {
    change();
    setStarts([0]);
  };
  const shown = cards.data?.cards ?? [];
  const counts = cards.data?.counts ?? {};
  const total = Object.values(counts).reduce((a, b) => a + b, 0);
  const none = cards.isSuccess && total === 0 && find === '' && filter === null;
  const renewing = cards.data?.renewing ?? 0;
  const older = new Set(cards.data?.older ?? []);
  const demo = shown.find((c) => c.waits_kind === 'size') ?? shown[0];
  const tall = shown.length <= 9;
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-[54px] shrink-0 items-center gap-8 border-b border-rule px-5">
        <Link to="/" className="mono text-title font-bold text-copper">
          fenwit
        </Link>
        <h1 className="text-lead font-bold">Bench</h1>
        <Link to="/shelf" className="link-button inline-flex items-center">
          Shelf
        </Link>
        <Link to="/desk" className="link-button inline-flex items-center">
          Desk
        </Link>
        <button type="button" className="link-button quiet ml-auto" onClick={() => setKeys(true)}>
          <span className="mono">?</span> keys
        </button>
        <input
          ref={fileRef}
          type="file"
          accept=".json,application/json"
          className="sr-only"
          aria-label="job file"
          tabIndex={-1}
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = '';
            if (file) bring.mutate(file);
          }}
        />
        <button type="button" className="link-button" disabled={bring.isPending} onClick={() => fileRef.current?.click()}>
          take a job in
        </button>
        <button type="button" className="button" onClick={() => setAdding(true)}>
          New job <span className="mono ml-2 font-normal">n</span>
        </button>
      </header>
      <nav aria-label="Filter" className="flex shrink-0 flex-wrap items-center gap-x-7 px-5 pt-2">
        <Filter on={filter === null} onClick={() => narrow(() => setFilter(null))} text="All" count={total} />
        {FILTERS.map(([key, text]) => {
          const count = counts[key] ?? 0;
          return count > 0 || filter === key ? (
            <Filter key={key} on={filter === key} onClick={() => narrow(() => setFilter(key))} text={text} count={count} />
          ) : null;
        })}
        <label className="ml-auto flex items-center gap-2">
          <span className="quiet">find</span>
          <input ref={findRef} className="input w-48!" value={find} maxLength={200} onChange={(e) => narrow(() => setFind(e.target.value))} />
        </label>
      </nav>
      {bring.error && (
        <p role="alert" className="mx-5 mt-2 border-l-4 border-copper pl-3 text-copper">
          Nothing was taken in: {problemOf(bring.error).detail}{' '}
          {problemOf(bring.error).allowed && <span className="quiet">— {problemOf(bring.error).allowed}</span>}
        </p>
      )}
      <main className="min-h-0 flex-1 overflow-auto px-8 pt-8">
        {cards.isPending && <p className="quiet">Fetching the jobs…</p>}
        {renewing > 0 && (
          <p role="status" className="mb-4 border-l-4 border-air pl-3">
            {renewing === 1 ? 'One job is' : `${renewing} jobs are`} being computed anew by this version. Their cards follow by themselves; a job that is opened
            is computed at once.
          </p>
        )}
        {cards.isError && <p role="alert">{problemOf(cards.error).detail}</p>}
        {none && (
          <div className="max-w-md pt-10">
            <p className="heading mb-2">No fan in hand yet.</p>
            <p className="quiet mb-4">Start with its name and where it hangs; the rest comes as you find it out.</p>
            <button type="button" className="button button-main" onClick={() => setAdding(true)}>
              New job
            </button>
          </div>
        )}
        {cards.isSuccess && !none && shown.length === 0 && <p className="quiet">Nothing matches.</p>}
        <ul className="flex flex-wrap gap-x-6 gap-y-8">
          {shown.map((card) => (
            <li key={card.id} className="w-[150px]">
              <Link
                to={card.spot ? pathOf(card.id, card.spot) : `/jobs/${card.id}`}
                state={card.spot?.field ? { at: card.spot.field } : null}
                className="block pl-2"
                aria-label={spoken(card)}
              >
                <SmallStaff card={card} height={tall ? 450 : 180} />
                <span className="mt-3 block text-lead font-bold break-words">{card.name}</span>
                <span className="quiet block text-body">{card.place || ' '}</span>
                {older.has(card.id) && <span className="quiet block text-note">computed by an earlier version</span>}
                <span className={`mt-1.5 block text-lead ${urgent(card) ? 'text-copper' : ''}`}>{card.waits_for}</span>
              </Link>
            </li>
          ))}
        </ul>
        {(starts.length > 1 || cards.data?.more_after) && (
          <p className="flex gap-4 py-6">
            {starts.length > 1 && (
              <button type="button" className="button" onClick={() => setStarts(starts.slice(0, -1))}>
                Jobs before
              </button>
            )}
            {cards.data?.more_after && (
              <button type="button" className="button" onClick={() => setStarts([...starts, cards.data?.more_after ?? 0])}>
                Jobs after
              </button>
            )}
          </p>
        )}
        {total > 0 && total <= 4 && demo && filter === null && find === '' && (
          <p className="quiet mt-8 max-w-[560px] pl-2 text-body">
            Each staff is one fan: notches are the speeds wanted, bars the speeds expected, dots the speeds read; hatched are speeds to keep away from. New
            here?{' '}
            <button type="button" className="underline" onClick={() => void navigate(`/jobs/${demo.id}/size`)}>
              Go on with {demo.name}
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

/** A whole job out of a file; all of it or nothing. */
function useImport() {
  const client = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: async (file: File) => {
      let response: Response;
      try {
        response = await fetch('/api/jobs/import', { method: 'POST', body: file, headers: { 'Content-Type': 'application/json' } });
      } catch {
        throw new Refusal({ ...OFFLINE, detail: 'Fenwit does not answer.' });
      }
      const body: unknown = await response.json().catch(() => null);
      if (!response.ok) throw new Refusal(isProblem(body) ? body : OFFLINE);
      return body as JobPageData;
    },
    onSuccess: (page) => {
      client.setQueryData(jobKey(page.job.id), page);
      void client.invalidateQueries({ queryKey: ['cards'] });
      void navigate(`/jobs/${page.job.id}`);
    },
  });
}

function Filter({ on, onClick, text, count }: { on: boolean; onClick: () => void; text: string; count: number }) {
  return (
    <button type="button" aria-pressed={on} onClick={onClick} className={`h-11 border-b-[3px] ${on ? 'border-copper font-bold' : 'quiet border-transparent'}`}>
      {text} {count}
    </button>
  );
}

const urgent = (card: Card) => card.waits_kind === 'refused' || card.waits_kind === 'fault';

function spoken(card: Card): string {
  const marks = card.marks.map((m) => `step ${m.step} ${m.share_text}${m.measured_verdict ? ` ${m.measured_verdict}` : ''}`);
  return [card.name, card.place, card.waits_for, ...marks].filter(Boolean).join(', ');
}
