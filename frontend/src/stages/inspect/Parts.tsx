import { useQuery } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { Fragment, useState } from 'react';
import type { Problem } from '../../api/client';
import { unlessKept } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import { Made } from './Made';
import { Positions } from './Positions';
import type { PartEdit, Save, Shown, Typed } from './api';

type Template = Shown['templates'][number]['parts'][number];

const CONDITIONS = { unsaid: 'not seen', read: 'read', doubtful: 'doubtful', unreadable: 'unreadable', missing: 'missing' } as const;
const CLASSES: Record<string, string> = {
  'x2-film': 'X2',
  'motor-run': 'motor-run',
  'dc-film': 'film, DC',
  electrolytic: 'electrolytic',
};
const ASKED = { volts: 'volts', watts: 'watts', amps: 'amps', drop: 'break-back' } as const;
const LIKE = { volts: '275 V AC', watts: '1/4 W', amps: '6 A', drop: '8 V' } as const;

/** The board: its drawing, and every part as it is read. */
export function Parts({ shown, typed, save }: { shown: Shown; typed: Typed; save: Save }) {
  const [problem, setProblem] = useState<Problem | null>(null);
  const template = shown.templates.find((t) => t.key === typed.topology);
  const parts = shown.parts;
  const count = new Map<string, number>();
  for (const p of typed.parts) count.set(p.role, Math.max(count.get(p.role) ?? 0, p.number));
  const growing = template?.parts.find((p) => p.many);
  const most = Math.max(1, ...[...count].filter(([role]) => template?.parts.find((p) => p.role === role)?.many).map(([, n]) => n));
  const keep = (edit: PartEdit, mine: string) => save({ parts: [edit] }, mine);
  return (
    <div className="grid grid-cols-[minmax(0,2fr)_minmax(0,1fr)] gap-7 max-[1000px]:grid-cols-1">
      <section aria-label="Parts of the board" className="min-w-0">
        <div className="flex flex-wrap items-center gap-x-4 pb-1">
          <label className="flex items-center gap-2">
            <span className="quiet">made as</span>
            <select
              className="input w-64!"
              value={typed.topology}
              onChange={(e) => {
                const next = shown.templates.find((t) => t.key === e.target.value);
                if (next) void save({ topology: next.key }, next.name).then((p) => setProblem(unlessKept(p)));
              }}
            >
              {shown.templates.map((t) => (
                <option key={t.key} value={t.key}>
                  {t.name}
                </option>
              ))}
            </select>
          </label>
          <button
            type="button"
            className="link-button text-body"
            onClick={() => void save({ none: true }, 'no control').then((p) => setProblem(unlessKept(p)))}
          >
            none came in
          </button>
        </div>
        <Refusal problem={problem} />
        <p className="quiet pb-1 text-note">
          Type as printed: 82n, 823K 100V, 330k, 4A, or colours from one end like brown,red,orange,gold. Dead and discharged, always.
        </p>
        <table className="w-full">
          <thead className="sr-only">
            <tr>
              <th>part</th>
              <th>printed</th>
              <th>condition</th>
              <th>rating</th>
              <th>taken as</th>
            </tr>
          </thead>
          <tbody>
            {template?.parts.flatMap((t) =>
              Array.from({ length: t.many ? most : 1 }, (_, i) => i + 1).map((number) => {
                const row = parts.find((p) => p.key === (t.many ? `${t.role}-${number}` : t.role));
                // What is dangerous or soon fails is said at the part itself.
                const worst = shown.findings.find((f) => f.part === row?.key && (f.severity === 'danger' || f.severity === 'damage'));
                return row && <PartLine key={row.key} template={t} number={number} row={row} worst={worst ?? null} typed={typed} keep={keep} />;
              }),
            )}
          </tbody>
        </table>
        {growing && most < 5 && (
          <button
            type="button"
            className="link-button"
            onClick={() => void keep({ role: growing.role, number: most + 1, condition: 'unreadable' }, growing.name).then((p) => setProblem(unlessKept(p)))}
          >
            one more {growing.name}
          </button>
        )}
        {typed.topology === 'stepped' || typed.topology === 'sections' || typed.topology === 'chain' ? (
          <Positions shown={shown} typed={typed} save={save} sections={most} />
        ) : null}
      </section>
      <div className="min-w-0">
        <Drawing />
        <Made typed={typed} save={save} />
      </div>
    </div>
  );
}

function PartLine({
  template,
  number,
  row,
  worst,
  typed,
  keep,
}: {
  template: Template;
  number: number;
  row: Shown['parts'][number];
  worst: Shown['findings'][number] | null;
  typed: Typed;
  keep: (edit: PartEdit, mine: string) => Promise<Problem | null>;
}) {
  const [problem, setProblem] = useState<Problem | null>(null);
  const told = typed.parts.find((p) => p.role === template.role && p.number === number);
  const condition = row.condition ?? 'unsaid';
  const there = condition !== 'missing';
  const base = { role: template.role, number };
  const say = (edit: Omit<PartEdit, 'role' | 'number'>, mine: string) => keep({ ...base, ...edit }, `${row.name}: ${mine}`);
  const put = (edit: Omit<PartEdit, 'role' | 'number'>, mine: string) => void say(edit, mine).then((p) => setProblem(unlessKept(p)));
  const options = (Object.keys(CONDITIONS) as (keyof typeof CONDITIONS)[]).filter(
    // A value that is doubtful or read is so by what was typed.
    (c) => c === condition || c === 'unsaid' || c === 'unreadable' || c === 'missing' || (c === 'read' && !template.hint),
  );
  return (
    <tr className="row-line align-top max-[1000px]:grid max-[1000px]:grid-cols-[170px_minmax(0,1fr)_136px_84px]">
      <td className="w-[165px] py-2 leading-5">
        <span className="flex">
          <span className="mono quiet w-9 shrink-0">{row.ref}</span>
          <span title={template.look}>{row.name}</span>
        </span>
      </td>
      <td className="w-[150px] py-0.5 max-[1000px]:w-auto">
        {template.hint && there ? (
          <ValueField bare label={`${row.name}, as printed`} text={told?.text ?? ''} hint={template.hint} onCommit={(text) => say({ text }, text)} />
        ) : null}
        {row.readings.length > 1 && (
          <div className="text-note">
            <span className="quiet">or </span>
            {row.readings.map((r, i) => (
              <Fragment key={r.bench}>
                {i > 0 && <span className="quiet"> · </span>}
                <button type="button" className="link-button" onClick={() => put({ text: r.bench }, r.text)}>
                  {r.text} {r.share_text}
                </button>
              </Fragment>
            ))}
          </div>
        )}
        {worst && (
          <p className="text-note text-copper">
            △ {worst.title}: {worst.figures}
          </p>
        )}
        <Refusal problem={problem} className="text-note" />
      </td>
      <td className="w-[136px] py-0.5 pl-2">
        <select
          aria-label={`${row.name}: condition`}
          className="input"
          value={condition}
          onChange={(e) => {
            const next = e.target.value;
            if (next === 'unsaid') put({ forget: true }, 'not looked at');
            else if (next === 'read' || next === 'unreadable' || next === 'missing') put({ condition: next }, CONDITIONS[next]);
          }}
        >
          {options.map((c) => (
            <option key={c} value={c}>
              {CONDITIONS[c]}
            </option>
          ))}
        </select>
      </td>
      <td className="py-0.5 pl-2 max-[1000px]:order-last max-[1000px]:col-span-3 max-[1000px]:col-start-2 max-[1000px]:pl-0">
        {told && there && (
          <div className="flex gap-2">
            {template.asked.map((a) =>
              a === 'class' ? (
                <select
                  key={a}
                  aria-label={`${row.name}: class`}
                  className="input w-24!"
                  value={told.part_class ?? ''}
                  onChange={(e) => {
                    const next = Object.keys(CLASSES).find((k) => k === e.target.value);
                    put(next ? { part_class: next as PartEdit['part_class'] } : { no_class: true }, e.target.value || 'class not known');
                  }}
                >
                  <option value="">class?</option>
                  {Object.entries(CLASSES).map(([key, name]) => (
                    <option key={key} value={key}>
                      {name}
                    </option>
                  ))}
                </select>
              ) : (
                <div key={a} className="w-24">
                  <ValueField
                    bare
                    label={`${row.name}: ${ASKED[a]}`}
                    text={told[a]}
                    hint={`${ASKED[a]}`}
                    note={told[a] ? '' : `like ${LIKE[a]}`}
                    onCommit={(text) => say({ [a]: text }, text)}
                  />
                </div>
              ),
            )}
          </div>
        )}
      </td>
      <td className="mono w-[100px] py-2 pl-2 text-right text-body max-[1000px]:w-auto">
        {row.taken}
        {row.taken && (condition === 'unsaid' || condition === 'unreadable') && <span className="quiet block text-note">usual</span>}
      </td>
    </tr>
  );
}

/** The control as it was read, drawn by the server from its circuit. */
function Drawing() {
  const { page } = useJobInHand();
  const url = `/api/jobs/${page.job.id}/inspect.svg`;
  const drawn = useQuery({
    queryKey: ['inspect.svg', page.job.id, page.saved_at],
    queryFn: async () => {
      const found = await fetch(url);
      return found.ok ? found.text() : null;
    },
    retry: false,
    placeholderData: (before: string | null | undefined) => before,
  });
  if (!drawn.data) return null;
  const src = `data:image/svg+xml;utf8,${encodeURIComponent(drawn.data)}`;
  return (
    <Dialog.Root>
      <Dialog.Trigger className="block w-full cursor-zoom-in" aria-label="Schematic of the control, larger">
        <img alt="" className="schematic w-full" src={src} />
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-10 bg-ink/30" />
        <Dialog.Content className="panel fixed top-1/2 left-1/2 z-20 max-h-[94vh] w-[1000px] max-w-[96vw] -translate-x-1/2 -translate-y-1/2 overflow-auto p-6">
          <Dialog.Title className="heading">The control as it was read</Dialog.Title>
          <Dialog.Description className="quiet text-body">What is not seen yet or missing is left out.</Dialog.Description>
          <img alt="Schematic of the control that came in" className="schematic w-full" src={src} />
          <Dialog.Close className="button mt-3">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
