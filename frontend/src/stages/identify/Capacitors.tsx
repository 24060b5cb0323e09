import { Dialog, Popover } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { api, problemOf, useCapacitors, useSave, type Complaint, type JobPageData, type Problem, type Schemas } from '../../api/client';
import { readingEdit, unlessKept, useEdits } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { fieldId, goOn } from '../../job/spot';
import { useTyped } from '../../ui/typed';
import { Cautions } from '../../ui/Cautions';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';
import { BlockEditor, SectionRows } from './BlockEditor';
import { DriftPlot } from './DriftPlot';
import { useFindings } from './findings';

type Section = Schemas['SectionEdit'];
type SectionShown = Schemas['SectionRow'];

const VERDICT = { unread: '○', good: '●', watch: '◐', out: '△', open: '△', short: '△', lossy: '△' } as const;
const COMPLAINTS: readonly [Complaint, string][] = [
  ['all-slow', 'all steps slow'],
  ['one-slow', 'one step slow'],
  ['no-start', 'does not start'],
];

/** The capacitor block: verdicts, what they do to the steps, what is behind a complaint, and a spare's leads. */
export function Capacitors() {
  const { page, selected, onClash } = useJobInHand();
  const [complaint, setComplaint] = useState<Complaint | null>(null);
  const [slow, setSlow] = useState(0);
  const [editing, setEditing] = useState(false);
  const found = useCapacitors(page, complaint, slow);
  const keep = useFindings();
  const save = useEdits(page.job.id, onClash);
  const { who } = useWho();
  const block = page.findings.block ?? null;
  const shown = found.data;
  const asked = new Map(page.sheet_readings.map((w) => [w.quantity, w]));

  const take = (w: Schemas['Wanted'], text: string) => save(readingEdit(page.job.id, w.label, text, w.quantity, null, who, w.reading_id));

  if (!block || editing) {
    return (
      <section aria-label="Capacitor block" className="max-w-[760px]">
        <h2 className="heading mb-1">The block: its sections, their leads, what is printed</h2>
        {!block && !editing && (
          <p className="quiet mb-2">
            A run capacitor alone is a block of one section. Speed sections stand between the motor's lead and the leads the switch feeds.
          </p>
        )}
        <BlockEditor jobId={page.job.id} block={block} onKeep={(b) => keep({ block: b }, 'the block')} onDone={() => setEditing(false)} />
      </section>
    );
  }
  return (
    <div className="grid grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] gap-8 max-[1000px]:grid-cols-1">
      <section aria-label="Sections" className="min-w-0">
        <div className="mb-2 empty:hidden">
          <Cautions stage="identify" part="first" only={['isolate', 'stored-charge']} />
        </div>
        <div className="flex items-baseline justify-between">
          <h2 className="heading">Sections</h2>
          <button type="button" className="link-button" onClick={() => setEditing(true)}>
            change the block
          </button>
        </div>
        {problemLine(found.error ? problemOf(found.error) : null)}
        <ul>
          {shown?.sections.map((s) => (
            <li key={s.name} className="row-line py-2">
              <div className="grid grid-cols-[minmax(0,1.3fr)_84px_84px_minmax(0,1.25fr)] items-start gap-3">
                <div className="min-w-0">
                  <p>
                    <strong>{s.name}</strong> <span className="quiet">{s.leads}</span> <span className="mono">{s.rated_text}</span>
                  </p>
                  <p className="quiet text-note">
                    {s.class_text} {s.tolerance_text}; touches {s.touches}
                  </p>
                </div>
                <Reading page={page} asked={asked.get(`section_f:${s.name}`)} label="read" onTake={take} />
                <Reading page={page} asked={asked.get(`section_esr:${s.name}`)} label="ESR" onTake={take} />
                <p className={`pt-1 text-body ${bad(s) ? 'font-semibold text-copper' : ''}`}>
                  <span aria-hidden="true">{VERDICT[s.verdict]}</span> {s.words}
                  {s.drift && <History of={s} />}
                </p>
              </div>
              {asked.get(`section_f:${s.name}`)?.gated_by === `stored-charge:${s.name}` && <Discharge page={page} section={s} />}
            </li>
          ))}
        </ul>
        <Spare spare={page.findings.spare ?? []} onKeep={(spare) => keep({ spare }, 'the spare block')} />
      </section>
      <section aria-label="What it does" className="min-w-0">
        {shown?.note && <p className="quiet">{shown.note[0]?.toUpperCase() + shown.note.slice(1)}.</p>}
        {shown && shown.steps.length > 0 && (
          <>
            <h2 className="heading">Steps, as printed and as they are</h2>
            <table className="w-full text-body">
              <thead className="quiet text-left text-note">
                <tr>
                  <th className="font-normal">step</th>
                  <th className="text-right font-normal">as printed</th>
                  <th className="text-right font-normal">as it is</th>
                  <th className="text-right font-normal">change</th>
                </tr>
              </thead>
              <tbody>
                {shown.steps.map((s, i) => (
                  <tr key={s.name} className={`row-line ${i + 1 === selected ? 'font-bold text-copper' : ''}`}>
                    <td className="py-1">{s.name}</td>
                    <td className="mono text-right">{s.rated_text}</td>
                    <td className="mono text-right">{s.now ? `${s.now.number} rpm` : s.now_text}</td>
                    <td className="mono text-right">{s.change_text}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {shown.sections.some((s) => s.verdict === 'unread') && <p className="quiet text-note">Sections that were not read count as printed.</p>}
            <div className="mt-1 flex flex-wrap items-center gap-x-4">
              <h2 className="heading">What is wrong?</h2>
              {COMPLAINTS.map(([key, text]) => (
                <button key={key} type="button" className="tab" aria-pressed={complaint === key} onClick={() => setComplaint(complaint === key ? null : key)}>
                  {text}
                </button>
              ))}
              {complaint === 'one-slow' && (
                <select className="input w-auto!" aria-label="which step" value={slow} onChange={(e) => setSlow(Number(e.target.value))}>
                  {(block.steps ?? []).map((s, i) => (
                    <option key={i} value={i}>
                      step {s.name}
                    </option>
                  ))}
                </select>
              )}
            </div>
            {complaint && shown.suspects.length > 0 && (
              <ol aria-label="Suspects" aria-live="polite">
                {shown.suspects
                  .filter((s, i) => s.read || i === 0 || s.likelihood >= 0.01)
                  .slice(0, 5)
                  .map((s) => (
                    <li key={s.name} className="row-line grid grid-cols-[70px_52px_minmax(0,1fr)] items-baseline gap-2 py-1 text-body">
                      <strong className={s.read ? 'text-copper' : ''}>{s.name}</strong>
                      {s.read ? (
                        <span className="font-semibold text-copper">△ read</span>
                      ) : (
                        <span className="mono text-right">{s.likelihood < 0.01 ? '<1' : Math.round(100 * Math.min(0.99, s.likelihood))} %</span>
                      )}
                      <span className="quiet text-note">
                        {s.words}
                        {s.read && <strong className="block">{s.explains ? 'That alone explains it.' : 'Replace it; alone it does not explain this.'}</strong>}
                      </span>
                    </li>
                  ))}
              </ol>
            )}
          </>
        )}
        {shown && shown.connections.length > 0 && <Connections rows={shown.connections} />}
      </section>
    </div>
  );
}

const bad = (s: SectionShown) => s.verdict !== 'good' && s.verdict !== 'unread' && s.verdict !== 'watch';

function problemLine(problem: Problem | null): ReactNode {
  return problem ? (
    <p role="alert" className="text-copper">
      {problem.detail}
    </p>
  ) : null;
}

function Reading({
  page,
  asked,
  label,
  onTake,
}: {
  page: JobPageData;
  asked: Schemas['Wanted'] | undefined;
  label: string;
  onTake: (w: Schemas['Wanted'], text: string) => Promise<Problem | null>;
}) {
  if (!asked) return <span />;
  return (
    <ValueField
      inputId={fieldId(`reading:${asked.quantity}`)}
      label={label}
      text={asked.text}
      hint={label === 'read' ? '2u44' : 'if known'}
      note={asked.text === '' && label === 'read' ? gateText(page, asked.gated_by) : ''}
      disabled={asked.gated_by !== null && asked.text === ''}
      onCommit={(text) => onTake(asked, text)}
    />
  );
}

/** What has to be confirmed before a field opens. */
function gateText(page: JobPageData, gate: string | null): string {
  const caution = (page.frame?.cautions ?? []).find((c) => c.key === gate);
  return caution ? `waits: ${caution.brief}` : '';
}

/** Resistor, time and volts read afterwards: only then the meter goes on. */
function Discharge({ page, section }: { page: JobPageData; section: SectionShown }) {
  const { who } = useWho();
  const [text, setText, clear] = useTyped(`${page.job.id} empty ${section.name}`, '');
  const [problem, setProblem] = useState<Problem | null>(null);
  const confirm = useSave(page.job.id, () =>
    api.POST('/api/jobs/{job_id}/confirmations', {
      params: { path: { job_id: page.job.id } },
      body: { caution: `stored-charge:${section.name}`, who, text },
    }),
  );
  return (
    <form
      data-gate=""
      className="mt-1 flex flex-wrap items-end gap-x-4 border-l-4 border-hazard bg-shade/60 px-3 py-1.5 text-body"
      onSubmit={(event) => {
        event.preventDefault();
        const form = event.currentTarget;
        confirm.mutate(undefined, {
          onSuccess: () => {
            clear();
            goOn(form, `reading:section_f:${section.name}`);
          },
          onError: (error) => setProblem(problemOf(error)),
        });
      }}
    >
      <p className="min-w-0 flex-1 basis-60">
        <strong>First empty it:</strong> {section.discharge_text}, never with a blade.
      </p>
      <label className="block w-28">
        <span className="quiet block text-note">volts afterwards</span>
        <input
          className="input mono"
          value={text}
          placeholder="2V"
          onChange={(e) => setText(e.target.value)}
          aria-label={`volts left on section ${section.name}`}
        />
      </label>
      <button type="submit" className="button" disabled={confirm.isPending}>
        Empty
      </button>
      {problemLine(problem)}
    </form>
  );
}

function History({ of: s }: { of: SectionShown }) {
  const drift = s.drift;
  if (!drift) return null;
  const day = (d: number) => new Date(d * 86_400_000).toLocaleDateString('en-GB', { month: 'short', year: 'numeric' });
  return (
    <Popover.Root>
      <Popover.Trigger className="link-button block text-left font-normal text-ink">
        history: {drift.points.length} {drift.points.length === 1 ? 'reading' : 'readings'}
        {drift.per_year_text && `, ${drift.per_year_text}`}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="panel z-30 w-[440px] max-w-[94vw] p-4 font-normal text-ink" align="end">
          <h3 className="heading">Section {s.name} over the years</h3>
          <DriftPlot drift={drift} day={day} />
          <p className="text-body">
            {drift.words}
            {drift.leaves_day && `; leaves its tolerance about ${day(drift.leaves_day)}`}
            {drift.leaves_low && ` (${day(drift.leaves_low)} to ${drift.leaves_high ? day(drift.leaves_high) : 'never'})`}.
          </p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Spare({ spare, onKeep }: { spare: readonly Section[]; onKeep: (spare: Section[]) => Promise<Problem | null> }) {
  const { page } = useJobInHand();
  const [draft, setDraft, clear] = useTyped<Section[]>(`${page.job.id} spare block`, []);
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <Dialog.Root
      open={open}
      onOpenChange={(now) => {
        setOpen(now);
        setProblem(null);
        if (now && draft.length === 0)
          setDraft(spare.length > 0 ? [...spare] : [{ name: 'A', lead_a: 'a', lead_b: 'b', rated: '', part_class: 'motor-run', tolerance: '' }]);
      }}
    >
      <Dialog.Trigger className="button mt-3">
        {spare.length > 0 ? `spare block: ${spare.map((s) => `${s.lead_a}–${s.lead_b} ${s.rated}`).join(', ')}` : 'a spare block at hand?'}
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-ink/30" />
        <Dialog.Content className="panel fixed top-1/2 left-1/2 z-30 w-[640px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 p-5" aria-describedby={undefined}>
          <Dialog.Title className="heading mb-2">The spare block: its sections and leads</Dialog.Title>
          <form
            onSubmit={(event) => {
              event.preventDefault();
              void onKeep(draft).then((p) => {
                const refused = unlessKept(p);
                setProblem(refused);
                if (!refused) {
                  clear();
                  setOpen(false);
                }
              });
            }}
          >
            <SectionRows sections={draft} onChange={setDraft} problem={problem} path="spare" />
            {problemLine(problem)}
            <div className="mt-3 flex gap-3">
              <button type="submit" className="button button-main">
                Try every assignment
              </button>
              <Dialog.Close className="button" onClick={clear}>
                Leave it
              </Dialog.Close>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Connections({ rows }: { rows: readonly Schemas['ConnectionRow'][] }) {
  const [open, setOpen] = useState(0);
  return (
    <div className="mt-2">
      <h2 className="heading">The spare in its place, closest first</h2>
      <ul>
        {rows.slice(0, 5).map((r, i) => (
          <li key={r.title} className="row-line">
            <button
              type="button"
              aria-expanded={open === i}
              className="grid min-h-10 w-full cursor-pointer grid-cols-[minmax(0,1fr)_auto] items-center gap-3 text-left"
              onClick={() => setOpen(open === i ? -1 : i)}
            >
              <span className={`mono py-1 text-body ${open === i ? 'font-bold' : ''}`}>{r.title}</span>
              {r.do_not ? (
                <strong className="text-body whitespace-nowrap text-copper">do not</strong>
              ) : (
                <span className="text-body whitespace-nowrap">off by {r.miss_text}</span>
              )}
            </button>
            {open === i && (
              <div className="pb-2 text-body">
                {r.do_not && <p className="font-semibold text-copper">Do not: {r.do_not}.</p>}
                {r.remark && <p className="text-caution">{r.remark[0]?.toUpperCase() + r.remark.slice(1)}.</p>}
                <div className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-6 gap-y-1">
                  <ul>
                    {r.moves.map((m) => (
                      <li key={m}>{m}</li>
                    ))}
                  </ul>
                  <ul className="mono text-right" aria-label="speeds before and after">
                    {r.steps.map((s) => (
                      <li key={s}>{s}</li>
                    ))}
                  </ul>
                </div>
              </div>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
