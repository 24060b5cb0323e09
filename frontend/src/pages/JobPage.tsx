import { useCallback, useEffect, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { problemOf, useJob, useLiveFrame, type Draft, type Frame, type JobPageData, type Problem, type StageKey } from '../api/client';
import { PowerPath } from '../instruments/PowerPath';
import { Staff } from '../instruments/Staff';
import { Aim } from '../stages/Aim';
import { Identify } from '../stages/Identify';
import { Measure } from '../stages/Measure';
import { Prove } from '../stages/Prove';
import { Size } from '../stages/Size';
import { useSaveSteps } from '../stages/steps';
import { Conflict, type Clash } from '../ui/Conflict';
import { Keys } from '../ui/Keys';
import { typing } from '../ui/keyboard';
import { clock } from '../ui/when';
import { WhoField } from '../ui/who';
import { NotThere } from './NotThere';

/** What every stage gets. */
export interface StageProps {
  page: JobPageData;
  /** The frame on screen: the stored one, or the live one while something is tried. */
  frame: Frame;
  selected: number;
  onSelect: (step: number) => void;
  draft: Draft | null;
  setDraft: (draft: Draft | null) => void;
  onClash: (clash: Clash) => void;
}

const EMPTY_FRAME = {
  missing: [], refused: '', suitability: [], cautions: [], waits_for: '', waits_kind: '', synchronous_rpm: null, top_rpm: null,
  full: null, zones: [], marks: [], paths: [], curve: [], curve_band: [], curve_steps: [], aims: [], aim_summary: '', banks: [],
  banks_note: '', parts: [], proofs: [], proof_summary: '', checks: [], assumptions: [], lost_draws: 0,
} satisfies Frame;

const SIGN = { open: '○', begun: '◐', done: '●' } as const;

export function JobPage() {
  const { jobId, stage } = useParams();
  const job = useJob(Number(jobId));
  if (!/^[0-9]{1,15}$/.test(jobId ?? '')) return <NotThere />;
  if (job.isPending) return <p className="quiet p-10">Fetching the job…</p>;
  if (!job.data) {
    const problem = problemOf(job.error);
    return <NotThere text={problem.status === 404 ? 'There is no such job.' : problem.detail} />;
  }
  return <Job key={job.data.job.id} page={job.data} stage={stage} away={job.isError} />;
}

function firstStage(page: JobPageData): StageKey {
  return (page.stages.find((s) => s.state !== 'done') ?? page.stages[page.stages.length - 1])?.key ?? 'identify';
}

function Job({ page, stage, away }: { page: JobPageData; stage: string | undefined; away: boolean }) {
  const navigate = useNavigate();
  const [draft, setDraft] = useState<Draft | null>(null);
  const [clash, setClash] = useState<Clash | null>(null);
  const [keys, setKeys] = useState(false);
  const [picked, setPicked] = useState(1);
  const [dropped, setDropped] = useState<Problem | null>(null);
  const live = useLiveFrame(page.job.id, draft);
  const frame = live.frame ?? page.frame ?? EMPTY_FRAME;
  const here = page.stages.find((s) => s.key === stage)?.key ?? firstStage(page);
  const count = frame.marks.length;
  const selected = Math.min(Math.max(1, picked), Math.max(1, count));
  const saveSteps = useSaveSteps(page, setClash);

  const go = useCallback(
    (by: number) => {
      const at = page.stages.findIndex((s) => s.key === here);
      const next = page.stages[at + by];
      if (next) void navigate(`/jobs/${page.job.id}/${next.key}`);
    },
    [here, navigate, page.job.id, page.stages],
  );
  useEffect(() => {
    document.title = `${page.fan.name} · fenwit`;
  }, [page.fan.name]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (typing(event)) return;
      if (/^[1-8]$/.test(event.key)) setPicked(Number(event.key));
      else if (event.key === 'ArrowUp') setPicked(Math.min(selected + 1, count));
      else if (event.key === 'ArrowDown') setPicked(Math.max(selected - 1, 1));
      else if (event.key === '[') go(-1);
      else if (event.key === ']') go(1);
      else if (event.key === 'b') void navigate('/');
      else if (event.key === '?') setKeys(true);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [count, go, navigate, selected]);

  const props: StageProps = { page, frame, selected, onSelect: setPicked, draft, setDraft, onClash: setClash };
  const wanted = draft?.wanted_rpm ?? page.job.wanted_rpm;
  const problem = live.problem ?? dropped ?? page.problem;
  return (
    <div className="grid h-full grid-cols-[238px_minmax(0,1fr)] grid-rows-[54px_auto_minmax(0,1fr)]">
      <header className="col-span-2 flex items-center gap-4 border-b border-rule px-5">
        <Link to="/" className="mono text-[18px] font-bold text-copper" aria-label="fenwit, to the Bench">
          fenwit
        </Link>
        <h1 className="max-w-[38%] shrink-0 truncate text-[19px] font-bold">{page.fan.name}</h1>
        <p className="quiet min-w-0 flex-1 truncate text-[14px]">
          {[page.fan.place, `${page.supply_volts_text} ${page.supply_hertz_text}`, page.kind_name, page.fan.poles ? `${page.fan.poles} poles` : '']
            .filter(Boolean)
            .join(' · ')}
        </p>
        <div className="ml-auto flex shrink-0 items-center gap-4 text-[14px]">
          <WhoField />
          <span className={away ? 'text-copper' : 'quiet'} role="status">
            {away ? 'Fenwit does not answer' : `saved ${clock(page.saved_at)}`}
          </span>
          <Link className="link-button inline-flex items-center" to={`/jobs/${page.job.id}/print`}>
            print
          </Link>
          <button type="button" className="link-button" onClick={() => setKeys(true)}>
            <span className="mono">?</span> keys
          </button>
        </div>
      </header>
      <aside className="row-span-2 row-start-2 min-h-0 pl-2 pt-1 max-[900px]:row-span-1 max-[900px]:row-start-3">
        <Staff
          frame={frame}
          selected={selected}
          onSelect={setPicked}
          aim={
            here === 'aim'
              ? {
                  wanted,
                  onDrag: (speeds) => setDraft({ wanted_rpm: speeds }),
                  onDrop: (speeds) => void saveSteps(speeds).then((refused) => (setDropped(refused), setDraft(null))),
                }
              : undefined
          }
        />
      </aside>
      <div className="col-start-2 row-start-2 min-w-0 pt-3 pr-5 max-[900px]:col-span-2 max-[900px]:col-start-1 max-[900px]:pl-5">
        <PowerPath frame={frame} selected={selected} />
      </div>
      <div className="col-start-2 row-start-3 flex min-h-0 min-w-0 flex-col pr-5">
        <nav aria-label="Stages" className="flex shrink-0 gap-8 border-y border-rule max-[900px]:gap-5">
          {page.stages.map((s) => (
            <Link
              key={s.key}
              to={`/jobs/${page.job.id}/${s.key}`}
              aria-current={s.key === here ? 'page' : undefined}
              className={`-mb-px flex h-11 items-center gap-2 border-b-[3px] text-[16px] ${s.key === here ? 'border-copper font-bold' : 'quiet border-transparent'}`}
            >
              <span aria-hidden="true" className="text-[12px]">
                {SIGN[s.state]}
              </span>
              {s.name}
              <span className="sr-only">, {s.state}</span>
            </Link>
          ))}
          {frame.waits_for && !frame.refused && <p className="quiet ml-auto self-center truncate text-[14px]">next: {frame.waits_for}</p>}
        </nav>
        {problem && (
          <p role="alert" className="mt-2 border-l-4 border-copper pl-3 text-copper">
            {problem.detail} {problem.allowed && <span className="quiet">— {problem.allowed}</span>}
          </p>
        )}
        <main className="min-h-0 flex-1 overflow-auto py-3">
          {here === 'identify' && <Identify {...props} />}
          {here === 'measure' && <Measure {...props} />}
          {here === 'aim' && <Aim {...props} />}
          {here === 'size' && <Size {...props} />}
          {here === 'prove' && <Prove {...props} />}
        </main>
      </div>
      <Conflict clash={clash} onDone={() => setClash(null)} />
      <Keys open={keys} onOpenChange={setKeys} />
    </div>
  );
}
