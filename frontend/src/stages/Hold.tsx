import { useState } from 'react';
import { problemOf } from '../api/client';
import { useJobInHand } from '../job/context';
import { Cautions } from '../ui/Cautions';
import { Refusal } from '../ui/Refusal';
import { useHold, useSaveHold, useTried, type HoldTyped } from './hold/api';
import { Heat } from './hold/Heat';
import { Loop } from './hold/Loop';

const HOLDS: readonly [NonNullable<HoldTyped['holds']>, string, string][] = [
  ['nothing', 'nothing', 'somebody sets the speed, by its steps'],
  ['loop', 'flow or pressure', 'a sensor and a controller move the command'],
  ['heat', 'a temperature', 'the fan follows what it cools, and rests when it may'],
];

/** What the fan holds by itself: a flow, a pressure, a temperature; simulated before, proved after. */
export default function Hold() {
  const { page, frame } = useJobInHand();
  const [draft, setDraft] = useState<HoldTyped | null>(null);
  const found = useHold(page);
  const tried = useTried(page.job.id, draft);
  const save = useSaveHold();
  if (!frame.full) return <p className="quiet">What a fan holds can be worked out once full speed is known: {frame.missing.map((m) => m.text).join(', ')}.</p>;
  const kept = found.data ?? null;
  const now = tried.page ?? kept;
  const problem = tried.problem ?? (found.error ? problemOf(found.error) : null);
  const holds = kept?.typed.holds ?? null;
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-center gap-x-4" role="radiogroup" aria-label="The fan holds">
        <span className="quiet">the fan holds</span>
        {HOLDS.map(([key, name, words]) => (
          <button
            key={key}
            type="button"
            role="radio"
            aria-checked={holds === key}
            title={words}
            className={`min-h-10 border-b-[3px] px-1 ${holds === key ? 'border-copper font-bold' : 'quiet border-transparent'}`}
            disabled={holds === null}
            onClick={() => holds !== key && void save({ holds: key }, name)}
          >
            {name}
          </button>
        ))}
        <span className="quiet text-note max-[900px]:hidden">{HOLDS.find(([k]) => k === holds)?.[2]}</span>
      </div>
      <Refusal problem={problem} />
      {holds === null && !problem && <p className="quiet">Working out what it holds…</p>}
      {now?.shown.note && holds !== 'nothing' && <p className="text-copper">{now.shown.note}</p>}
      {holds === 'loop' && kept?.typed.loop && <Loop typed={kept.typed.loop} shown={now?.shown.loop ?? null} save={save} />}
      {holds === 'heat' && kept?.typed.heat && (
        <Heat
          typed={kept.typed.heat}
          shown={now?.shown.heat ?? null}
          fullRpm={frame.full.value}
          save={save}
          onTry={(heat) => setDraft(heat ? { heat } : null)}
        />
      )}
      {holds === 'nothing' && (
        <p className="quiet max-w-[70ch]">
          Pick what the fan is to hold. A flow or a pressure needs the fan’s curve and its system, typed in Aim under air; a temperature needs a heat sink and
          its load. Both are simulated here before anything is wired.
        </p>
      )}
      <Cautions stage="hold" brief />
    </div>
  );
}
