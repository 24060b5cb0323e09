import { Tabs } from 'radix-ui';
import { Fragment, Suspense, useEffect, useRef, useState, type ReactNode } from 'react';
import { useLocation } from 'react-router';
import { answer, api, problemOf, type JobPageData, type Problem, type Schemas } from '../api/client';
import { readingEdit, useEdits } from '../api/save';
import { Plan } from './prove/Plan';
import { useAsked, useDeviceInHand, useDevices, type DeviceAnswer } from '../devices/api';
import { DeviceBar } from '../devices/DeviceBar';
import { VerdictWord } from '../instruments/VerdictSign';
import { useJobInHand } from '../job/context';
import type { Landing } from '../job/spot';
import { Cautions } from '../ui/Cautions';
import { Refusal } from '../ui/Refusal';
import { useKeys } from '../ui/useKeys';
import { ValueField } from '../ui/ValueField';
import { when } from '../ui/when';
import { useWho } from '../ui/who';
import { Why } from '../ui/Why';
import { provedWords, viewOf } from '../methods';

type Row = Schemas['ProofRow'];

/** Readings taken step by step, each with its verdict at once. */
export default function Prove() {
  const { page, frame, selected, onSelect, onClash } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const design = page.design;
  const filed = page.filed_under;
  const first = useRef(true);
  const landing = Boolean((useLocation().state as Landing | null)?.at);
  // What only a scope shows is asked for at the step in hand.
  const rows = frame.proofs.filter((r) => !r.captured || r.verdict !== null || r.step === selected);
  const save = useEdits(jobId, onClash);
  const asked = useAsked(jobId);
  const devices = useDevices().data ?? [];
  const [device, pick] = useDeviceInHand(devices);
  const [last, setLast] = useState<DeviceAnswer | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const asking = useRef(false);
  const [tab, setTab] = useState(page.planned && !landing ? 'plan' : 'steps');

  useEffect(() => {
    if (!first.current || page.prove_gated_by) return;
    first.current = false;
    if (landing || tab === 'plan') return;
    const open = rows.find((r) => !r.verdict && !r.captured);
    if (open) focus(open);
  }, [landing, page.prove_gated_by, rows, tab]);

  if (!design) return <p className="quiet">Proving starts once a regulator is chosen in Size.</p>;

  const Tools = viewOf(design.design.method).ProveTools;

  const newest = (row: Row) => page.readings.findLast((r) => r.design_id === filed && r.step === row.step && r.quantity === row.quantity) ?? null;

  const take = (row: Row, text: string): Promise<Problem | null> =>
    save(readingEdit(jobId, `step ${row.step}, ${row.name},`, text, row.quantity, row.step, who, newest(row)?.id ?? null));

  function toNext(row: Row) {
    const at = rows.findIndex((r) => r.step === row.step && r.quantity === row.quantity);
    const next = rows.slice(at + 1).find((r) => row.captured || !r.captured);
    if (next) {
      onSelect(next.step);
      focus(next);
    }
  }

  const can = (row: Row) => device?.channels.some((c) => c.quantity === row.quantity) ?? false;
  const read = async (row: Row) => {
    if (!device || asking.current) return;
    asking.current = true;
    setBusy(true);
    setProblem(null);
    try {
      const got = await answer(
        api.POST('/api/jobs/{job_id}/devices/take', {
          params: { path: { job_id: jobId } },
          body: { device: device.name, quantity: row.quantity, step: row.step, supersedes: newest(row)?.id ?? null, who },
        }),
      );
      setLast(got);
    } catch (error) {
      setProblem(problemOf(error));
    } finally {
      asking.current = false;
      setBusy(false);
      await asked();
    }
  };
  const waiting = rows.find((r) => r.step === selected && !r.verdict && can(r)) ?? rows.find((r) => !r.verdict && can(r));

  const steps = [...new Set(rows.map((r) => r.step))];
  const failed = rows.filter((r) => r.verdict === 'fail' || r.verdict === 'near');
  // Of one step the speed says most; what else is off with it is the same fault seen again.
  const told = (row: Row) =>
    failed.includes(row) && (row.quantity === 'speed_rpm' || !failed.some((f) => f.step === row.step && f.quantity === 'speed_rpm')) ? row.words : '';
  const table = (
    <>
      <StepKeys onTake={() => waiting && void read(waiting)} />
      {devices.length > 0 && rows.some(can) && (
        <div className="mt-1">
          <DeviceBar jobId={jobId} devices={devices} device={device} onPick={pick} last={last} busy={busy} />
        </div>
      )}
      <Refusal problem={problem} />
      <table className="mt-1 w-full">
        <thead className="quiet text-left text-note">
          <tr>
            <th className="w-24 font-normal max-[900px]:w-16">step</th>
            <th className="w-32 font-normal max-[900px]:w-24">quantity</th>
            <th className="w-36 text-right font-normal max-[900px]:w-32">expected</th>
            <th className="w-44 pl-8 font-normal max-[900px]:w-36 max-[900px]:pl-4">read, then Enter</th>
            <th className="w-28 pl-4 font-normal max-[900px]:w-20">verdict</th>
            <th className="font-normal max-[900px]:hidden">who, when</th>
          </tr>
        </thead>
        <tbody>
          {steps.map((step) =>
            rows
              .filter((r) => r.step === step)
              .map((row, i) => (
                <Fragment key={`${row.step}-${row.quantity}`}>
                  <tr className={`${i === 0 ? 'border-t border-ink/60' : 'row-line'} ${step === selected ? 'bg-shade/50' : ''}`} onFocus={() => onSelect(step)}>
                    <td className={`pl-2 text-title font-bold ${step === selected ? 'text-copper' : ''}`}>
                      {i === 0 ? step : ''}
                      <span className="quiet ml-2 text-note font-normal max-[900px]:ml-0 max-[900px]:block">
                        {i === 0 ? frame.marks.find((m) => m.step === step)?.label : ''}
                      </span>
                    </td>
                    <td>{row.name}</td>
                    <td className="mono text-right whitespace-nowrap">
                      <Explained row={row}>
                        {row.expected}
                        {row.unit === '°' ? '' : ' '}
                        {row.unit}
                      </Explained>
                    </td>
                    <td className="py-0.5 pl-8">
                      <div className="[&_label]:sr-only">
                        <ValueField
                          inputId={`proof-${row.step}-${row.quantity}`}
                          label={`step ${row.step}, ${row.name}, ${row.unit}`}
                          text={row.reading ? `${row.reading}${row.unit === '°' ? '' : ' '}${row.unit}` : ''}
                          hint={row.hint}
                          disabled={page.prove_gated_by !== null}
                          onCommit={(text) => take(row, text)}
                          onEnter={() => toNext(row)}
                        />
                        {can(row) && page.prove_gated_by === null && (
                          <button
                            type="button"
                            className="link-button text-note"
                            disabled={busy}
                            aria-label={`read step ${row.step}, ${row.name}, off ${device?.name ?? ''}`}
                            onClick={() => void read(row)}
                          >
                            read it
                          </button>
                        )}
                        <p className="quiet hidden text-note leading-tight max-[900px]:block">{corrections(page, filed, row)}</p>
                      </div>
                    </td>
                    <td className="pl-4">
                      <VerdictWord verdict={row.verdict} />
                    </td>
                    <td className="quiet text-note max-[900px]:hidden">{corrections(page, filed, row)}</td>
                  </tr>
                  {told(row) && (
                    <tr className={step === selected ? 'bg-shade/50' : ''}>
                      <td />
                      <td colSpan={5} className={`border-l-4 border-copper py-1 pl-3 text-body ${row.verdict === 'fail' ? 'text-copper' : ''}`}>
                        {told(row)}
                      </td>
                    </tr>
                  )}
                </Fragment>
              )),
          )}
        </tbody>
      </table>
    </>
  );
  return (
    <div>
      <Cautions stage="prove" part="first" />
      <div className="mt-1 flex items-baseline gap-4">
        <h2 className="heading">
          Readings with {page.supply_volts_text} at the terminals, {provedWords(design.design, frame)}
        </h2>
        {Tools && (
          <Suspense fallback={null}>
            <Tools />
          </Suspense>
        )}
        <p className="ml-auto">{frame.proof_summary}</p>
      </div>
      {page.planned ? (
        <Tabs.Root value={tab} onValueChange={setTab} className="mt-1">
          <Tabs.List className="flex gap-7 border-b border-rule" aria-label="What is proved">
            <Tabs.Trigger value="plan" className="tab -mb-px">
              Line by line
            </Tabs.Trigger>
            <Tabs.Trigger value="steps" className="tab -mb-px">
              Step by step
            </Tabs.Trigger>
          </Tabs.List>
          <Tabs.Content value="plan" tabIndex={-1} className="pt-2">
            <Plan />
          </Tabs.Content>
          <Tabs.Content value="steps" tabIndex={-1}>
            {table}
          </Tabs.Content>
        </Tabs.Root>
      ) : (
        table
      )}
      <div className="mt-4">
        <Cautions stage="prove" part="rest" />
      </div>
    </div>
  );
}

/** Listens only while the steps are in sight. */
function StepKeys({ onTake }: { onTake: () => void }) {
  useKeys('job', { take: onTake });
  return null;
}

const EXPLAINED: Record<string, string> = {
  speed_rpm: 'speed',
  motor_voltage_v: 'motor-volts',
  line_current_a: 'amps',
  extinction_angle_deg: 'regulator-volts',
};

function Explained({ row, children }: { row: Row; children: ReactNode }) {
  const what = EXPLAINED[row.quantity];
  return what ? <Why of={`step:${row.step}:${what}`}>{children}</Why> : children;
}

function focus(row: Row) {
  const input = document.getElementById(`proof-${row.step}-${row.quantity}`);
  if (input instanceof HTMLInputElement) {
    input.focus();
    input.select();
  }
}

function corrections(page: JobPageData, designId: number | null, row: Row): string {
  const taken = page.readings.filter((r) => r.design_id === designId && r.step === row.step && r.quantity === row.quantity);
  const last = taken[taken.length - 1];
  if (!last || last.value === null) return '';
  const at = when(last.taken_at);
  const before = taken.slice(0, -1).filter((r) => r.value !== null);
  return [last.who, at, last.source, before.length ? `before: ${before.map((r) => r.said).join(', ')}` : ''].filter(Boolean).join(' · ');
}
