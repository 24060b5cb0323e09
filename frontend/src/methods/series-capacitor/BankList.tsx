import { Popover } from 'radix-ui';
import { useState } from 'react';
import { useClasses, type Draft, type JobPageData, type Problem, type Schemas } from '../../api/client';
import { usePending } from '../../api/outbox';
import { unlessKept } from '../../api/save';
import { Choice } from '../../ui/Choice';
import { Why } from '../../ui/Why';
import { Rod } from '../shared/Rod';
import type { Bank } from './api';

type Candidate = Schemas['Candidate'];
type Sizing = Schemas['SizingEdit'];

interface Props {
  page: JobPageData;
  banks: Schemas['Banks'] | null;
  pending: boolean;
  wanted: readonly number[];
  full: number;
  /** Worst miss of the bank in hand as it would be built */
  built: string;
  draft: Draft | null;
  setDraft: (draft: Draft | null) => void;
  onChoose: (bank: Bank) => void;
  saveSizing: (sizing: Sizing) => Promise<Problem | null>;
}

/** The ten best banks as small staffs, and what they are searched from. */
export function BankList({ page, banks, pending, wanted, full, built, draft, setDraft, onChoose, saveSizing }: Props) {
  const tried = draft?.design?.method === 'series-capacitor' ? draft.design : null;
  return (
    <section aria-label="Banks" aria-busy={pending} className="flex min-h-0 flex-col" onPointerLeave={() => tried && setDraft(null)}>
      <div className="flex items-baseline gap-3">
        <h2 className="heading whitespace-nowrap">Banks, best first</h2>
        <Search page={page} save={saveSizing} />
      </div>
      <div className={`min-h-0 flex-1 overflow-auto ${pending ? 'opacity-70' : ''}`}>
        {banks?.note && <p className="text-copper">{banks.note}</p>}
        <ul>
          {(banks?.candidates ?? []).map((c) => {
            const bank = typed(c);
            const on = tried !== null && same(tried, bank);
            const tryIt = () => setDraft(c.chosen ? null : { ...(draft?.wanted_rpm ? { wanted_rpm: draft.wanted_rpm } : {}), design: bank });
            return (
              <li key={`${c.text} ${c.patterns.join()}`} className="row-line">
                <button
                  type="button"
                  aria-pressed={c.chosen}
                  aria-label={`${c.text}, worst miss ${c.miss_text} of full speed, ${c.evenness_text}, ${c.shelf_text}, ${c.chosen ? 'chosen' : 'choose'}`}
                  onPointerEnter={tryIt}
                  onFocus={tryIt}
                  onBlur={() => setDraft(null)}
                  onClick={() => onChoose(bank)}
                  className={`grid min-h-11 w-full grid-cols-[158px_minmax(0,1fr)_92px] items-center gap-3 text-left ${c.chosen ? 'font-bold text-copper' : ''} ${on ? 'bg-shade' : ''}`}
                >
                  <span>
                    <span className="mono block whitespace-nowrap text-lead">{c.text}</span>
                    <span className="quiet block text-note font-normal">{c.patterns.join('  ')}</span>
                  </span>
                  <Rod speeds={c.speed_rpm} wanted={wanted} full={full} />
                  <span className="text-right text-note">
                    <span className="mono block text-lead">{c.miss_text}</span>
                    <span className="quiet block font-normal">{c.shelf_text}</span>
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
        {banks && banks.left_out.length > 0 && (
          <details className="quiet border-t border-rule pt-1 text-note">
            <summary className="min-h-8 cursor-pointer py-1">left on the shelf: {banks.left_out.length} that may not stand here</summary>
            <ul className="list-disc pl-5">
              {banks.left_out.map((t) => (
                <li key={t}>{t}</li>
              ))}
            </ul>
          </details>
        )}
        <p className="quiet border-t border-rule pt-1 text-note">
          Tall strokes: speeds the bank gives, 0 to full. Short ones: speeds wanted. ± is the worst miss, of full speed
          {built && (
            <>
              , by the capacitors alone; as built, {tried ? 'this' : 'the chosen'} bank misses by at most <Why of="miss">{built}</Why>
            </>
          )}
          .
        </p>
      </div>
    </section>
  );
}

function typed(c: Candidate): Bank {
  return {
    method: 'series-capacitor',
    capacitors: c.capacitors.map((p) => ({
      value: p.bench,
      measured: p.measured_bench,
      part_class: p.part_class,
      rated: '',
      tolerance: '',
      shelf_id: p.shelf_id,
    })),
    patterns: [...c.patterns],
    switch: null,
    bleeds: [],
    limiters: [],
    fuse: '',
  };
}

const same = (a: Bank, b: Bank) => JSON.stringify([a.capacitors, a.patterns]) === JSON.stringify([b.capacitors, b.patterns]);

/** What the search works with: the switch, the class of capacitors and what is fixed. */
function Search({ page, save }: { page: JobPageData; save: (sizing: Sizing) => Promise<Problem | null> }) {
  const classes = useClasses();
  const [problem, setProblem] = useState<Problem | null>(null);
  // What waits on this device counts already: the next change builds on it.
  const waiting = usePending(page.job.id, '')?.sizing as Sizing | undefined;
  const sizing = { ...page.sizing, ...waiting };
  const sw = sizing.switch ?? { positions: 4, poles: 2, series_pairs: true, make_before_break: false, rated_voltage_v: 250 };
  const put = (edit: Sizing) => void save(edit).then((p) => setProblem(unlessKept(p)));
  const name = classes.data?.find((c) => c.key === sizing.part_class)?.name ?? '';
  const fixed = sizing.fixed ?? [];
  const words = [
    `${sw.positions} positions`,
    sw.poles === 1 ? '1 pole' : '2 poles',
    ...(sw.rated_voltage_v > 250 ? [`${sw.rated_voltage_v} V`] : []),
    sw.series_pairs ? 'series pairs' : 'no series',
    name,
    `up to ${sizing.most ?? 3}`,
    ...(fixed.length ? [`fixed ${fixed.map((f) => f.measured || f.value).join(', ')}`] : []),
  ];
  return (
    <Popover.Root>
      <Popover.Trigger className="link-button min-w-0 truncate text-left text-note" aria-label={`search: ${words.join(', ')}`}>
        {words.join(' · ')}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          collisionPadding={12}
          className="panel z-30 max-h-(--radix-popover-content-available-height) w-[430px] max-w-[94vw] overflow-auto px-5 py-3 text-body"
        >
          <h3 className="heading">What the search works with</h3>
          <Choice
            label="positions beside Off"
            value={String(sw.positions)}
            options={['2', '3', '4', '5', '6']}
            onPick={(v) => put({ switch: { ...sw, positions: Number(v) } })}
          />
          <Choice label="poles" value={String(sw.poles)} options={['1', '2']} onPick={(v) => put({ switch: { ...sw, poles: Number(v) } })} />
          <Choice
            label="two capacitors in series"
            value={sw.series_pairs ? 'yes' : 'no'}
            options={['yes', 'no']}
            onPick={(v) => put({ switch: { ...sw, series_pairs: v === 'yes' } })}
          />
          <Choice
            label="contacts"
            value={sw.make_before_break ? 'make first' : 'break first'}
            options={['break first', 'make first']}
            onPick={(v) => put({ switch: { ...sw, make_before_break: v === 'make first' } })}
          />
          <Choice
            label="switch rated"
            value={`${sw.rated_voltage_v} V`}
            options={['250 V', '400 V']}
            onPick={(v) => put({ switch: { ...sw, rated_voltage_v: parseInt(v, 10) } })}
          />
          <Choice
            label="capacitors to buy"
            value={sizing.part_class ?? ''}
            options={(classes.data ?? []).filter((c) => c.duty === 'capacitor' && !c.refused).map((c) => c.key)}
            say={(key) => classes.data?.find((c) => c.key === key)?.name ?? key}
            onPick={(v) => put({ part_class: v })}
          />
          <Choice label="most capacitors" value={String(sizing.most ?? 3)} options={['1', '2', '3']} onPick={(v) => put({ most: Number(v) })} />
          <Choice label="values" value={sizing.series ?? 'E12'} options={['E6', 'E12']} onPick={(v) => put({ series: v })} />
          <Choice
            label="pins can be touched"
            value={sizing.enclosed ? 'no, closed housing' : 'yes'}
            options={['yes', 'no, closed housing']}
            onPick={(v) => put({ enclosed: v !== 'yes' })}
          />
          {fixed.length > 0 && (
            <p>
              fixed: <span className="mono">{fixed.map((f) => f.measured || f.value).join(', ')}</span>{' '}
              <button type="button" className="link-button" onClick={() => put({ fixed: [] })}>
                set free
              </button>
            </p>
          )}
          {problem && (
            <p role="alert" className="text-copper">
              {problem.detail}
            </p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
