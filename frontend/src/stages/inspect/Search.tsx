import { useState } from 'react';
import type { Problem } from '../../api/client';
import { unlessKept } from '../../api/save';
import { Refusal } from '../../ui/Refusal';
import { SpotTable } from './SpotTable';
import type { Save, Shown } from './api';

interface Props {
  shown: Shown;
  save: Save;
  suppose: string;
  onSuppose: (key: string) => void;
  onMend: () => void;
}

/** What was noticed, what explains it, where to look next; and what any fault would show. */
export function Search({ shown, save, suppose, onSuppose, onMend }: Props) {
  const [problem, setProblem] = useState<Problem | null>(null);
  const put = (edit: Parameters<Save>[0], mine: string) => save(edit, mine).then((p) => (setProblem(unlessKept(p)), unlessKept(p)));
  // What is ticked stands at once; the list is sent whole, so that a quick second tick keeps the first.
  const [ticked, setTicked] = useState<readonly Shown['symptoms'][number]['key'][] | null>(null);
  const seen = ticked ?? shown.symptoms.filter((s) => s.on).map((s) => s.key);
  const tick = async (key: (typeof seen)[number], on: boolean, words: string) => {
    const next = on ? [...seen, key] : seen.filter((k) => k !== key);
    setTicked(next);
    await put({ seen: [...next] }, words);
    setTicked((now) => (now === next ? null : now));
  };
  const found = async (key: string, words: string) => {
    if (!(await put({ found: key }, words))) onMend();
  };
  const next = shown.looks.find((l) => l.bad === null);
  const live = shown.looks.filter((l) => l.bad === null && l.live);
  const open = shown.looks.filter((l) => l.bad === null && !l.live);
  const taken = shown.looks.filter((l) => l.bad !== null);
  const ranked = shown.symptoms.length > 0;
  return (
    <div className="space-y-3">
      <Refusal problem={problem} />
      {ranked && (
        <div className="grid grid-cols-[190px_minmax(0,1fr)_minmax(0,1.2fr)] gap-8 max-[1000px]:grid-cols-1">
          <fieldset className="max-[1000px]:flex max-[1000px]:flex-wrap max-[1000px]:gap-x-6">
            <legend className="heading">Noticed</legend>
            {shown.symptoms.map((s) => (
              <label key={s.key} className="flex min-h-10 cursor-pointer items-center gap-2">
                <input
                  type="checkbox"
                  className="size-5 shrink-0 accent-copper"
                  checked={seen.includes(s.key)}
                  onChange={(e) => void tick(s.key, e.target.checked, s.words)}
                />
                {s.words}
              </label>
            ))}
          </fieldset>
          <section aria-label="What explains it">
            <h3 className="heading">What explains it</h3>
            <ul>
              {shown.causes.slice(0, 7).map((c) => (
                <li key={c.key} className="row-line grid min-h-10 grid-cols-[44px_minmax(0,1fr)_auto] items-center gap-2">
                  <span className="mono text-right">{c.share_text}</span>
                  <span className="relative">
                    <span aria-hidden className="absolute inset-y-0 left-0 bg-flow opacity-25" style={{ width: `${100 * c.share}%` }} />
                    <span className="relative pl-1">{c.words}</span>
                  </span>
                  {c.fault && (
                    <span className="flex gap-1">
                      <button type="button" className="link-button" aria-pressed={suppose === c.fault} onClick={() => onSuppose(c.fault)}>
                        shows
                      </button>
                      <button type="button" className="link-button" onClick={() => void found(c.fault, c.words)}>
                        it is this
                      </button>
                    </span>
                  )}
                </li>
              ))}
            </ul>
            <p className="quiet pt-1 text-note">Shares are trade judgement weighed by what was noticed and looked at; every word and look counts by itself.</p>
          </section>
          <section aria-label="Where to look">
            <h3 className="heading">
              Look next
              {next && <span className="font-normal">: {next.words}</span>}
            </h3>
            {shown.next_live && next && (
              <p className="text-caution">
                △ Under power: no dead look is worth its while any more. Isolating transformer and a lamp in line, one hand, nothing touched; a licensed person
                where local code says so.
              </p>
            )}
            <ul>
              {[...(shown.next_live ? live : []), ...open, ...(shown.next_live ? [] : live)].map((l) => (
                <li key={l.key} className="row-line grid min-h-10 grid-cols-[minmax(0,1fr)_auto] items-center gap-2 text-body">
                  <span>
                    {l.live && '△ '}
                    {l.words} <span className="quiet">— {l.how}</span> <span className="mono quiet text-note">{l.bits_text}</span>
                  </span>
                  <span className="flex gap-1">
                    <button
                      type="button"
                      className="link-button"
                      aria-label={`${l.words}: good`}
                      onClick={() => void put({ looks: [{ look: l.key, bad: false }] }, `${l.words}: good`)}
                    >
                      good
                    </button>
                    <button
                      type="button"
                      className="link-button"
                      aria-label={`${l.words}: bad`}
                      onClick={() => void put({ looks: [{ look: l.key, bad: true }] }, `${l.words}: bad`)}
                    >
                      bad
                    </button>
                  </span>
                </li>
              ))}
              {taken.map((l) => (
                <li key={l.key} className="row-line grid min-h-10 grid-cols-[minmax(0,1fr)_auto] items-center gap-2 text-body">
                  <span>
                    <span className={l.bad ? 'font-semibold text-copper' : ''}>{l.bad ? '△ bad' : '○ good'}</span> {l.words}
                  </span>
                  <button
                    type="button"
                    className="link-button"
                    aria-label={`${l.words}: not looked at after all`}
                    onClick={() => void put({ looks: [{ look: l.key, bad: null }] }, `${l.words}: not looked at`)}
                  >
                    undo
                  </button>
                </li>
              ))}
            </ul>
          </section>
        </div>
      )}
      <section aria-label="What a fault would show" className="border-t border-rule pt-2">
        <label className="flex flex-wrap items-center gap-2">
          <span className="heading">Suppose</span>
          <select className="input w-80!" value={suppose} onChange={(e) => onSuppose(e.target.value)}>
            <option value="">nothing: it is whole</option>
            {shown.supposable.map((s) => (
              <option key={s.key} value={s.key}>
                {s.words}
              </option>
            ))}
          </select>
          {shown.supposed && (
            <button type="button" className="link-button" onClick={() => void found(shown.supposed?.key ?? '', shown.supposed?.words ?? '')}>
              it is this
            </button>
          )}
        </label>
        {shown.supposed && (
          <>
            <dl className="grid grid-cols-[70px_minmax(0,1fr)] gap-x-3 py-1 text-body">
              <dt className="quiet">scope</dt>
              <dd>{shown.supposed.scope}</dd>
              <dt className="quiet">meter</dt>
              <dd>{shown.supposed.meter}</dd>
              <dt className="quiet">fan</dt>
              <dd>{shown.supposed.fan}</dd>
              {shown.supposed.heats.length > 0 && (
                <>
                  <dt className="text-copper">△ heat</dt>
                  <dd className="text-copper">{shown.supposed.heats.join('; ')}</dd>
                </>
              )}
            </dl>
            <SpotTable
              spots={shown.supposed.spots.filter((_, i, all) => all.length < 8 || i % 5 === 0)}
              stepless={shown.stepless}
              fan={!shown.fan_missing}
              label="What it would show"
            />
          </>
        )}
      </section>
    </div>
  );
}
