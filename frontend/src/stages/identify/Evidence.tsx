import { ToggleGroup } from 'radix-ui';
import { useState } from 'react';
import { useIdentify, useKinds, type Problem, type Schemas } from '../../api/client';
import { unlessKept } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { fieldId, useGo } from '../../job/spot';
import { ValueField } from '../../ui/ValueField';
import { useFindings } from './findings';

type Observation = Schemas['ObservationShown'];

const DUTIES: readonly [string, string][] = [
  ['', 'a fan, nothing else'],
  ['compressor', 'a hermetic compressor'],
  ['pump', 'a pump'],
  ['medical', 'a medical device'],
  ['smoke-extract', 'smoke extract'],
  ['explosion', 'air that may explode'],
  ['combustion', 'combustion air or flue gas'],
];

/** What can be seen and heard, what each of it says, and the kinds it adds up to. */
export function Evidence({ onPickKind }: { onPickKind: (kind: string) => Promise<Problem | null> }) {
  const { page } = useJobInHand();
  const found = useIdentify(page);
  const kinds = useKinds();
  const keep = useFindings();
  const go = useGo(page.job.id);
  const [problem, setProblem] = useState<Problem | null>(null);
  const evidence = found.data?.evidence;
  if (!evidence) return <p className="quiet">Weighing what was seen…</p>;
  const chosen = page.fan.motor_kind ?? '';
  const set = (key: string, so: boolean | null) => void keep({ observed: { [key]: so } }, key).then((p) => setProblem(unlessKept(p)));
  return (
    <div className="grid min-h-0 grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)] gap-8 max-[1000px]:grid-cols-1">
      <section aria-label="What can be seen and heard" className="min-h-0 min-w-0">
        <h2 className="heading mb-1">What can be seen and heard</h2>
        <ul className="max-h-[52vh] overflow-auto pr-2 max-[1000px]:max-h-none" tabIndex={-1}>
          <Rows all={evidence.observations} next={evidence.next_key} onSet={set} />
        </ul>
        <label className="mt-2 flex items-center gap-3 text-body">
          <span className="quiet shrink-0">it drives</span>
          <select
            className="input max-w-72"
            value={page.findings.duty ?? ''}
            onChange={(e) => void keep({ duty: e.target.value }, 'what it drives').then((p) => setProblem(unlessKept(p)))}
          >
            {DUTIES.map(([key, text]) => (
              <option key={key} value={key}>
                {text}
              </option>
            ))}
          </select>
        </label>
      </section>
      <section aria-label="Which kind it is" className="min-w-0">
        <h2 className="heading mb-1">Which kind it is</h2>
        <ol>
          {evidence.kinds.map((k) => (
            <li key={k.kind} className="row-line py-1.5">
              <div className="flex items-center gap-3">
                <span className={`min-w-0 flex-1 leading-tight ${k.kind === chosen ? 'font-bold text-copper' : 'font-semibold'}`}>{k.name}</span>
                <svg width={90} height={10} aria-hidden="true" className="shrink-0">
                  <rect width={90} height={10} fill="var(--color-shade)" />
                  <rect width={90 * k.likelihood} height={10} fill={k.kind === chosen ? 'var(--color-copper)' : 'var(--color-ink)'} />
                </svg>
                <span className="mono w-20 shrink-0 text-right text-body">{k.share_text}</span>
                {k.kind === chosen ? (
                  <span className="w-16 text-center text-note font-bold text-copper">chosen</span>
                ) : (
                  <button
                    type="button"
                    className="link-button w-16"
                    aria-label={`take ${k.name}`}
                    onClick={() => void onPickKind(k.kind).then((p) => setProblem(unlessKept(p)))}
                  >
                    take
                  </button>
                )}
              </div>
              {k.speaks_for.length + k.speaks_against.length > 0 && (
                <p className="quiet text-note leading-snug">
                  {k.speaks_for.length > 0 && <>for it: {k.speaks_for.slice(0, 3).join('; ')}. </>}
                  {k.speaks_against.length > 0 && <>Against it: {k.speaks_against.slice(0, 2).join('; ')}.</>}
                </p>
              )}
            </li>
          ))}
        </ol>
        {evidence.next_text && (
          <p className="mt-3 border-l-2 border-copper pl-3">
            <strong className="font-semibold">Look next:</strong> {evidence.next_text}{' '}
            {evidence.next_spot && (
              <button type="button" className="link-button font-semibold" onClick={() => evidence.next_spot && void go(evidence.next_spot)}>
                answer it
              </button>
            )}
          </p>
        )}
        {evidence.overruled && (
          <div className="mt-3">
            <p className="text-copper">Overruled: {evidence.overruled}.</p>
            <ValueField
              label={`why it is ${kinds.data?.find((k) => k.key === chosen)?.name ?? 'this kind'} all the same`}
              text={page.findings.kind_reason ?? ''}
              mono={false}
              onCommit={(text) => keep({ kind_reason: text }, text)}
            />
          </div>
        )}
        {problem && (
          <p role="alert" className="mt-2 text-note text-copper">
            {problem.detail}
          </p>
        )}
      </section>
    </div>
  );
}

/** What was answered when the view was opened comes first; rows do not jump away under the finger. */
function Rows({ all, next, onSet }: { all: readonly Observation[]; next: string; onSet: (key: string, so: boolean | null) => void }) {
  const [first] = useState(() => new Set(all.filter((o) => typeof o.so === 'boolean').map((o) => o.key)));
  return [...all.filter((o) => first.has(o.key)), ...all.filter((o) => !first.has(o.key))].map((o) => (
    <Row key={o.key} of={o} next={o.key === next} onSet={(so) => onSet(o.key, so)} />
  ));
}

function Row({ of: o, next, onSet }: { of: Observation; next: boolean; onSet: (so: boolean | null) => void }) {
  return (
    <li
      id={fieldId(`look:${o.key}`)}
      className={`row-line grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 py-1 ${next ? 'border-l-2 border-l-copper pl-2' : ''}`}
    >
      <div className="min-w-0">
        <p className="leading-snug">
          {o.text} {next && <span className="text-note font-semibold text-copper">look next</span>}
        </p>
        <p className="quiet text-note leading-snug">
          {o.speaks_for && <>for {o.speaks_for}</>}
          {o.speaks_against && <>; against {o.speaks_against}</>}
          {o.weak && <>; weak: {o.weak}</>}
        </p>
      </div>
      <ToggleGroup.Root
        type="single"
        value={o.so === null || o.so === undefined ? '' : o.so ? 'yes' : 'no'}
        onValueChange={(v) => onSet(v === '' ? null : v === 'yes')}
        aria-label={`${o.text}: ${o.where}`}
        className="flex"
      >
        {['yes', 'no'].map((v) => (
          <ToggleGroup.Item
            key={v}
            value={v}
            className="min-h-10 min-w-12 cursor-pointer border-b-[3px] border-transparent text-muted data-[state=on]:border-copper data-[state=on]:font-bold data-[state=on]:text-ink"
          >
            {v}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </li>
  );
}
