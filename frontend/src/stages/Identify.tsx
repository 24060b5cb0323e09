import { Select, Tabs } from 'radix-ui';
import { useEffect, useEffectEvent, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { useIdentify, useKinds, type Problem, type Schemas } from '../api/client';
import { unlessKept, useEdits } from '../api/save';
import { useJobInHand } from '../job/context';
import { fieldId } from '../job/spot';
import { Cautions } from '../ui/Cautions';
import { ValueField } from '../ui/ValueField';
import { useWho } from '../ui/who';
import { AnswerFor } from './identify/AnswerFor';
import { Capacitors } from './identify/Capacitors';
import { Evidence } from './identify/Evidence';
import { Leads } from './identify/Leads';

type FanEdit = Omit<Schemas['FanEdit'], 'version' | 'who'>;
type JobEdit = Pick<Schemas['JobEdit'], 'wish' | 'supply_voltage' | 'supply_frequency'>;

/** Where each part of a job edit is stored. */
const STORED = { wish: 'wish', supply_voltage: 'supply_voltage_v', supply_frequency: 'supply_frequency_hz' } as const;

const names = <T extends object>(edit: T) => Object.keys(edit) as (keyof T & string)[];

const said = (edit: Record<string, unknown>) =>
  Object.entries(edit)
    .map(([name, value]) => `${name.replace(/_[a-z]+$/, '').replaceAll('_', ' ')}: ${typeof value === 'string' && value ? value : 'nothing'}`)
    .join(', ');

const ANSWER = { suits: 'suits', 'on-conditions': 'on conditions', refused: 'refused' } as const;
const SIGN = { suits: '●', 'on-conditions': '◐', refused: '╱' } as const;

const PARTS = ['nameplate', 'evidence', 'leads', 'capacitors'] as const;

/** What motor it is, which lead is which, what its capacitors are worth, and which ways of regulating suit it. */
export default function Identify() {
  const [search, setSearch] = useSearchParams();
  const part = PARTS.find((p) => p === search.get('part')) ?? 'nameplate';
  return (
    <Tabs.Root value={part} onValueChange={(p) => setSearch(p === 'nameplate' ? {} : { part: p }, { replace: true })}>
      <Tabs.List aria-label="Parts of Identify" className="-mt-2 mb-3 flex gap-7">
        {PARTS.map((p) => (
          <Tabs.Trigger key={p} value={p} className="tab">
            {p}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Tabs.Content value="nameplate" tabIndex={-1}>
        <Plate />
      </Tabs.Content>
      <Tabs.Content value="evidence" tabIndex={-1}>
        <EvidencePart />
      </Tabs.Content>
      <Tabs.Content value="leads" tabIndex={-1}>
        <Leads />
      </Tabs.Content>
      <Tabs.Content value="capacitors" tabIndex={-1}>
        <Capacitors />
      </Tabs.Content>
    </Tabs.Root>
  );
}

function EvidencePart() {
  const { page, onClash } = useJobInHand();
  const { who } = useWho();
  const keep = useEdits(page.job.id, onClash);
  const pick = (kind: string) =>
    keep({
      kind: 'fan',
      method: 'PATCH',
      path: `/api/jobs/${page.job.id}/fan`,
      body: { motor_kind: kind, who },
      versionField: 'version',
      from: page.fan.version,
      replaces: { motor_kind: page.fan.motor_kind },
      what: 'The kind of motor',
      mine: kind,
    });
  return <Evidence onPickKind={pick} />;
}

/** Nameplate, motor kind, and which ways of regulating suit it. */
function Plate() {
  const { page, frame, onClash } = useJobInHand();
  const kinds = useKinds();
  const found = useIdentify(page);
  const { who } = useWho();
  const [refusedKind, setRefusedKind] = useState<{ kind: string; problem: Problem; at: number } | null>(null);
  const jobId = page.job.id;
  const fan = page.fan;

  const keep = useEdits(jobId, onClash);

  const save = (edit: FanEdit): Promise<Problem | null> =>
    keep({
      kind: 'fan',
      method: 'PATCH',
      path: `/api/jobs/${jobId}/fan`,
      body: { ...edit, who },
      versionField: 'version',
      from: fan.version,
      replaces: Object.fromEntries(names(edit).map((k) => [k, (fan as Record<string, unknown>)[k]])),
      what: 'What is known of the fan',
      mine: said(edit),
    });

  const saveJob = (edit: JobEdit): Promise<Problem | null> =>
    keep({
      kind: 'job',
      method: 'PATCH',
      path: `/api/jobs/${jobId}`,
      body: { ...edit, who },
      versionField: 'version',
      from: page.job.version,
      replaces: Object.fromEntries(names(edit).map((k) => [STORED[k], page.job[STORED[k]]])),
      what: 'The wish or the supply',
      mine: said(edit),
    });

  const pickKind = (kind: string) =>
    save({ motor_kind: kind }).then((p) => {
      const problem = unlessKept(p);
      setRefusedKind(problem && { kind, problem, at: fan.version });
    });
  // What stood against it may be gone with the last edit of the nameplate: then it is taken after all.
  const again = refusedKind && refusedKind.at !== fan.version ? refusedKind.kind : null;
  const pick = useEffectEvent(pickKind);
  useEffect(() => {
    if (again !== null) void pick(again);
  }, [again]);

  const words: [keyof FanEdit, string, string][] = [
    ['name', 'fan', fan.name],
    ['place', 'place', fan.place],
    ['maker', 'maker', fan.maker],
    ['serial', 'serial number', fan.serial],
  ];
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)] gap-10 max-[1000px]:grid-cols-1">
      <section aria-label="Nameplate">
        <div className="grid grid-cols-2 gap-x-6 gap-y-1">
          {words.map(([key, label, text]) => (
            <ValueField key={key} label={label} text={text} mono={false} onCommit={(typed) => save({ [key]: typed })} />
          ))}
        </div>
        <div className="mt-1">
          <ValueField label="what is wanted" text={page.job.wish} mono={false} multiline onCommit={(wish) => saveJob({ wish })} />
        </div>
        {!page.stages.some((s) => s.key === 'inspect') && (
          <Link to={`/jobs/${jobId}/inspect`} className="link-button inline-flex items-center text-body">
            an old control came in with it: inspect it
          </Link>
        )}
        <h2 className="heading mt-3 mb-1">Nameplate and supply</h2>
        <div className="grid grid-cols-3 gap-x-6 gap-y-1">
          {page.printed.map((p) => (
            <ValueField
              key={p.field}
              label={p.label}
              text={p.text}
              hint={p.hint}
              note={p.note}
              inputId={fieldId(`fan:${p.field}`)}
              onCommit={(typed) => save({ [p.field]: typed })}
            />
          ))}
          <ValueField label="supply volts" text={page.supply_volts_text} onCommit={(typed) => saveJob({ supply_voltage: typed })} />
          {page.supply_hertz_text && (
            <ValueField label="supply hertz" text={page.supply_hertz_text} onCommit={(typed) => saveJob({ supply_frequency: typed })} />
          )}
        </div>
      </section>
      <section aria-label="Motor kind and suitability">
        <span className="quiet block text-note" id="kind-label">
          motor kind
        </span>
        <Select.Root value={fan.motor_kind ?? ''} onValueChange={(kind) => void pickKind(kind)}>
          <Select.Trigger
            id={fieldId('fan:motor_kind')}
            aria-labelledby="kind-label"
            className="input flex items-center justify-between text-left font-semibold"
          >
            <Select.Value placeholder="pick the kind of motor" />
            <Select.Icon>▾</Select.Icon>
          </Select.Trigger>
          <Select.Portal>
            <Select.Content position="popper" className="z-10 max-h-[440px] w-(--radix-select-trigger-width) border border-ink bg-paper">
              <Select.Viewport>
                {kinds.data?.map((k) => (
                  <Select.Item
                    key={k.key}
                    value={k.key}
                    className="min-h-10 cursor-pointer px-3 py-1.5 data-[highlighted]:bg-shade data-[highlighted]:outline-none data-[state=checked]:font-bold"
                  >
                    <Select.ItemText>{k.name}</Select.ItemText>
                    <span className="quiet block text-note font-normal">{k.known_by}</span>
                  </Select.Item>
                ))}
              </Select.Viewport>
            </Select.Content>
          </Select.Portal>
        </Select.Root>
        {refusedKind && (
          <p role="alert" className="text-note text-copper">
            {refusedKind.problem.detail}
          </p>
        )}
        {frame.suitability.length > 0 ? (
          <>
            <h2 className="heading mt-4 mb-1">May its speed be regulated?</h2>
            <ul>
              {(found.data?.suited ?? frame.suitability.map((s) => ({ ...s, computed: [], overridden: false, sized_here: true }))).map((s) => (
                <li key={s.method} className="row-line grid grid-cols-[22px_150px_1fr] items-baseline py-1.5 text-body">
                  <span aria-hidden="true" className={s.answer === 'refused' ? 'text-copper' : ''}>
                    {SIGN[s.answer]}
                  </span>
                  <span className="font-semibold">{s.name}</span>
                  <span>
                    <span className={s.answer === 'refused' ? 'font-semibold text-copper' : 'font-semibold'}>
                      {ANSWER[s.answer]}
                      {s.answer !== 'refused' && !s.sized_here && ', not sized here yet'}
                      {s.never ? ', no exception' : ''}:
                    </span>{' '}
                    <span className="quiet">{s.reason}</span>
                    {s.computed.map((c) => (
                      <span key={c} className="block border-l-2 border-rule pl-2 text-note">
                        {c}
                      </span>
                    ))}
                    {s.answer === 'refused' && !s.never && <AnswerFor page={page} method={s.method} />}
                  </span>
                </li>
              ))}
            </ul>
          </>
        ) : (
          <p className="quiet mt-3">Look for a run capacitor, copper rings in the pole faces, brushes, a click while running down, electronics on the motor.</p>
        )}
        <div className="mt-3">
          <Cautions stage="identify" />
        </div>
      </section>
    </div>
  );
}
