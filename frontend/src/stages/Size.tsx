import { Tabs } from 'radix-ui';
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import { useBanks, type Bank as BankData, type Problem, type Schemas } from '../api/client';
import { unlessKept, useEdits } from '../api/save';
import { SizingPlot } from '../instruments/SizingPlot';
import type { StageProps } from '../pages/JobPage';
import { Cautions } from '../ui/Cautions';
import { useWho } from '../ui/who';
import { Acceptance } from './size/Acceptance';
import { Designs } from './size/Designs';
import { BankList } from './size/BankList';
import { Parts } from './size/Parts';
import { PhaseAngle } from './phase/PhaseAngle';
import { Strays } from './size/Strays';

/** By which method the steps are made: a bank in the line, or a triac. */
export function Size(props: StageProps) {
  const { page, onClash } = props;
  const [search, setSearch] = useSearchParams();
  const { who } = useWho();
  const save = useEdits(page.job.id, onClash);
  const asked = search.get('by');
  const by = asked === 'phase' || asked === 'bank' ? asked : props.frame.method === 'phase-angle' ? 'phase' : 'bank';
  if (!props.frame.full || (page.job.wanted_rpm.length === 0 && !page.design)) return <Bank {...props} />;
  const turn = (to: string) => {
    setSearch({ by: to }, { replace: true });
    // While nothing is chosen the job is aimed with what is looked at.
    if (!page.design) {
      void save({
        kind: 'job',
        method: 'PATCH',
        path: `/api/jobs/${page.job.id}`,
        body: { sizing: { method: to === 'phase' ? 'phase-angle' : 'series-capacitor' }, who },
        versionField: 'version',
        from: page.job.version,
        replaces: { sizing: page.job.sizing },
        what: 'The method',
        mine: to === 'phase' ? 'phase angle' : 'in the line',
      });
    }
  };
  return (
    <Tabs.Root value={by} onValueChange={turn} className={by === 'phase' ? '' : 'flex h-full min-h-0 flex-col'}>
      <div className="-mt-3 flex shrink-0 items-center">
        <Tabs.List aria-label="Method" className="flex gap-7">
          <Tabs.Trigger value="bank" className="tab">
            in the line
          </Tabs.Trigger>
          <Tabs.Trigger value="phase" className="tab">
            phase angle
          </Tabs.Trigger>
        </Tabs.List>
        <Designs {...props} />
      </div>
      <Tabs.Content value="bank" tabIndex={-1} className="min-h-0 flex-1">
        {page.design?.method === 'phase-angle' && (
          <p className="quiet text-[14px]">This job is regulated by phase angle, revision {page.design.revision}. A bank chosen here takes its place; the control can be brought back.</p>
        )}
        <Bank {...props} />
      </Tabs.Content>
      <Tabs.Content value="phase" tabIndex={-1}>
        <PhaseAngle key={page.design?.id ?? 0} {...props} />
      </Tabs.Content>
    </Tabs.Root>
  );
}

/** Speed over capacitance, the banks best first, and what each part bears. */
function Bank({ page, frame: whole, selected, onSelect, draft, setDraft, onClash }: StageProps) {
  // Beside a control that stands, nothing of that is shown as if it were a bank's.
  const beside = whole.method === 'phase-angle';
  const frame = beside ? { ...whole, parts: [], rules: [], spreads: [], miss_text: '' } : whole;
  const { who } = useWho();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [tab, setTab] = useState('parts');
  const jobId = page.job.id;
  const save = useEdits(jobId, onClash);
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const banks = useBanks(page, wanted);

  async function choose(bank: BankData): Promise<Problem | null> {
    const refused = await save({
      kind: 'design',
      method: 'POST',
      path: `/api/jobs/${jobId}/designs`,
      body: { ...bank, who },
      versionField: 'after_revision',
      from: page.last_revision,
      replaces: {},
      what: 'The bank',
      mine: bank.capacitors.map((c) => c.measured || c.value || 'from the shelf').join(' and '),
    });
    setProblem(unlessKept(refused));
    if (!unlessKept(refused)) setDraft(null);
    return refused;
  }

  const saveJob = (edit: Pick<Schemas['JobEdit'], 'profile' | 'sizing'>, what: string): Promise<Problem | null> =>
    save({
      kind: 'job',
      method: 'PATCH',
      path: `/api/jobs/${jobId}`,
      body: { ...edit, who },
      versionField: 'version',
      from: page.job.version,
      replaces: edit.profile ? { profile: page.job.profile } : { sizing: page.job.sizing },
      what,
      mine: Object.entries(edit.profile ?? edit.sizing ?? {})
        .map(([k, v]) => `${k.replaceAll('_', ' ')}: ${typeof v === 'object' ? JSON.stringify(v) : String(v)}`)
        .join(', '),
    });

  if (!frame.full) {
    return <p className="quiet">A bank can be sized once full speed is known: {frame.missing.map((m) => m.text).join(', ')}.</p>;
  }
  if (page.job.wanted_rpm.length === 0 && !page.design) {
    return <p className="quiet">First say in Aim which speeds are wanted.</p>;
  }
  const missed = frame.rules.filter((r) => !r.met).length;
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[220px] flex-[1_1_220px] grid-cols-[minmax(0,1.15fr)_minmax(370px,1fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[280px_280px]">
        <SizingPlot frame={frame} selected={selected} onSelect={onSelect} />
        <BankList
          page={page}
          banks={banks.data ?? null}
          pending={banks.isFetching}
          wanted={wanted ?? page.job.wanted_rpm}
          full={frame.full.value}
          built={frame.miss_text}
          draft={draft}
          setDraft={setDraft}
          onChoose={(bank) => void choose(bank)}
          saveSizing={(sizing) => saveJob({ sizing }, 'What the search works with')}
        />
      </div>
      {problem && (
        <p role="alert" className="mt-1 text-copper">
          {problem.detail}
          {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
        </p>
      )}
      <Tabs.Root value={tab} onValueChange={setTab} className={`mt-1 flex min-h-0 flex-col ${frame.parts.length > 0 ? 'flex-[1_1_250px] max-[900px]:flex-none' : 'flex-none'}`}>
        <Tabs.List className="flex shrink-0 gap-7 border-b border-rule" aria-label="About the bank">
          <Tabs.Trigger value="parts" className="tab -mb-px">
            Parts and what they bear
          </Tabs.Trigger>
          <Tabs.Trigger value="strays" className="tab -mb-px">
            How far steps stray
          </Tabs.Trigger>
          <Tabs.Trigger value="acceptance" className="tab -mb-px">
            Acceptance
            {frame.rules.length > 0 && (
              <span className={missed ? 'text-copper' : ''}>{missed ? `△ ${missed} missed` : '● all met'}</span>
            )}
          </Tabs.Trigger>
        </Tabs.List>
        <Tabs.Content value="parts" className="min-h-0 flex-1 overflow-auto">
          <Parts page={page} frame={frame} draft={draft} choose={choose} saveSizing={(sizing) => saveJob({ sizing }, 'What the search works with')} />
        </Tabs.Content>
        <Tabs.Content value="strays" className="min-h-0 flex-1 overflow-auto">
          <Strays frame={frame} tried={draft !== null} selected={selected} onSelect={onSelect} />
        </Tabs.Content>
        <Tabs.Content value="acceptance" className="min-h-0 flex-1 overflow-auto">
          <Acceptance page={page} frame={frame} save={(profile) => saveJob({ profile }, 'The acceptance profile')} />
        </Tabs.Content>
        <div className="max-h-[120px] shrink-0 overflow-auto border-t border-rule pt-1">
          <Cautions page={page} stage="size" brief />
        </div>
      </Tabs.Root>
    </div>
  );
}

/** The value once it has been left alone for a moment: a search is not asked for at every frame of a drag. */
function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(value), 120);
    return () => window.clearTimeout(timer);
  }, [value]);
  return settled;
}
