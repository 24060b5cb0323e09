import { lazy, Suspense, useCallback, useEffect, useMemo, useState, type ComponentType, type LazyExoticComponent } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, problemOf, useJob, useLive, useSave, type Draft, type Frame, type JobPageData, type Live, type Problem, type StageKey } from '../api/client';
import { outbox, useOutbox, useRefused } from '../api/outbox';
import { unlessKept } from '../api/save';
import { PowerPath } from '../instruments/PowerPath';
import { Staff } from '../instruments/Staff';
import { JobContext, useJobInHand, type JobInHand } from '../job/context';
import { useGo, useLanding } from '../job/spot';
import { useSaveSteps } from '../job/steps';
import { Boundary } from '../ui/Boundary';
import { Conflict, type Clash } from '../ui/Conflict';
import { Keys } from '../ui/Keys';
import { Numbers } from '../ui/Numbers';
import { useTheme } from '../ui/theme';
import { useKeys } from '../ui/useKeys';
import { clock, when } from '../ui/when';
import { useWho, WhoField } from '../ui/who';
import { NotThere } from './NotThere';

const STAGES: Record<StageKey, LazyExoticComponent<ComponentType>> = {
  identify: lazy(() => import('../stages/Identify')),
  measure: lazy(() => import('../stages/Measure')),
  aim: lazy(() => import('../stages/Aim')),
  inspect: lazy(() => import('../stages/Inspect')),
  choose: lazy(() => import('../stages/Choose')),
  size: lazy(() => import('../stages/Size')),
  hold: lazy(() => import('../stages/Hold')),
  wire: lazy(() => import('../stages/Wire')),
  prove: lazy(() => import('../stages/Prove')),
  'hand-over': lazy(() => import('../stages/HandOver')),
};

const EMPTY_FRAME = {
  missing: [],
  refused: '',
  suitability: [],
  sized: [],
  cautions: [],
  unsized: '',
  waits_for: '',
  waits_kind: 'identify',
  next: null,
  proved: false,
  synchronous_rpm: null,
  top_rpm: null,
  full: null,
  zones: [],
  marks: [],
  paths: [],
  aims: [],
  aim_summary: '',
  parts: [],
  rules: [],
  miss_text: '',
  spreads: [],
  wiring: [],
  proofs: [],
  proof_summary: '',
  checks: [],
  assumptions: [],
  lost_draws: 0,
  taps: [],
  method: null,
} satisfies Frame;

const SIGN = { open: '○', begun: '◐', done: '●' } as const;

export default function JobPage() {
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

/** The stages of a job; Inspect stands among them while somebody is about to tell of a control that came in. */
function stagesAt(page: JobPageData, stage: string | undefined): JobPageData['stages'] {
  if (stage !== 'inspect' || page.stages.some((s) => s.key === stage)) return page.stages;
  const after = page.stages.findIndex((s) => s.key === 'measure') + 1 || page.stages.length;
  return page.stages.toSpliced(after, 0, { key: 'inspect', name: 'Inspect', state: 'open' });
}

function Job({ page, stage, away }: { page: JobPageData; stage: string | undefined; away: boolean }) {
  const navigate = useNavigate();
  const { who } = useWho();
  const jobId = page.job.id;
  useLanding();
  const [draft, setDraft] = useState<Draft | null>(null);
  const [clash, setClash] = useState<Clash | null>(null);
  const [keys, setKeys] = useState(false);
  const [numbers, setNumbers] = useState(false);
  const [picked, setPicked] = useState(1);
  const [dropped, setDropped] = useState<Problem | null>(null);
  const [, turnTheme] = useTheme();
  const live = useLive(jobId, draft);
  const stored = page.frame ?? EMPTY_FRAME;
  const [beside, setBeside] = useState<Live | null>(null);
  const frame = useMemo<Frame>(() => {
    const now = beside ?? live.live;
    return now ? { ...stored, ...now } : stored;
  }, [beside, live.live, stored]);
  const stages = useMemo(() => stagesAt(page, stage), [page, stage]);
  const here = stages.find((s) => s.key === stage)?.key ?? firstStage(page);
  const count = frame.marks.length;
  const selected = Math.min(Math.max(1, picked), Math.max(1, count));
  const back = useSave(jobId, (way: 'undo' | 'redo') =>
    way === 'undo'
      ? api.POST('/api/jobs/{job_id}/undo', { params: { path: { job_id: jobId } }, body: { who } })
      : api.POST('/api/jobs/{job_id}/redo', { params: { path: { job_id: jobId } }, body: { who } }),
  );

  const go = useCallback(
    (by: number) => {
      const at = stages.findIndex((s) => s.key === here);
      const next = stages[at + by];
      if (next) void navigate(`/jobs/${jobId}/${next.key}`);
    },
    [here, jobId, navigate, stages],
  );
  const { mutate: step } = back;
  const canUndo = page.history.undo !== '';
  const canRedo = page.history.redo !== '';
  useEffect(() => {
    document.title = `${page.fan.name} · fenwit`;
  }, [page.fan.name]);
  useKeys('job', {
    select: (event) => setPicked(Number(event.key)),
    up: () => setPicked(Math.min(selected + 1, count)),
    down: () => setPicked(Math.max(selected - 1, 1)),
    before: () => go(-1),
    after: () => go(1),
    bench: () => void navigate('/'),
    shelf: () => void navigate('/shelf'),
    desk: () => void navigate('/desk'),
    print: () => void navigate(`/jobs/${jobId}/print`),
    table: () => setNumbers(true),
    theme: turnTheme,
    into: focusStage,
    why: () => document.querySelector<HTMLElement>(`[data-why="step:${selected}:speed"]`)?.click(),
    undo: () => canUndo && step('undo'),
    redo: () => canRedo && step('redo'),
    keys: () => setKeys(true),
  });
  useEffect(() => {
    // A field that has nothing to put back is left, so that the page's keys can be reached again.
    const onEscape = (event: KeyboardEvent) => {
      if (event.key === 'Escape' && event.target instanceof HTMLElement && event.target.matches('input, textarea')) event.target.blur();
    };
    window.addEventListener('keydown', onEscape);
    return () => window.removeEventListener('keydown', onEscape);
  }, []);

  const problem = live.problem ?? dropped ?? (back.error ? problemOf(back.error) : null) ?? page.problem;
  const inHand = useMemo<JobInHand>(
    () => ({ page, frame, selected, onSelect: setPicked, draft, setDraft, setBeside, onClash: setClash }),
    [draft, frame, page, selected],
  );
  const Stage = STAGES[here];
  // A circuit needs the room, and a fan that nobody measured has neither staff nor path to show.
  const bare = here === 'wire' && frame.full === null;
  return (
    <JobContext value={inHand}>
      <div
        className={`grid h-full ${bare ? 'grid-cols-[20px_minmax(0,1fr)]' : 'grid-cols-[238px_minmax(0,1fr)]'} grid-rows-[54px_auto_minmax(0,1fr)] short:h-auto short:min-h-full short:grid-rows-[auto_auto_auto]`}
      >
        <header className="col-span-2 flex items-center gap-4 border-b border-rule px-5 max-[1100px]:gap-3 max-[1100px]:px-3 short:flex-wrap short:gap-y-0">
          <Link to="/" className="mono text-title font-bold text-copper" aria-label="fenwit, to the Bench">
            fenwit
          </Link>
          <nav aria-label="Rooms" className="flex shrink-0 gap-2 text-body">
            <Link to="/" className="link-button inline-flex items-center">
              Bench
            </Link>
            <Link to="/shelf" className="link-button inline-flex items-center">
              Shelf
            </Link>
            <Link to="/desk" className="link-button inline-flex items-center">
              Desk
            </Link>
          </nav>
          <h1
            className="max-w-[30%] min-w-0 truncate text-title font-bold max-[900px]:max-w-none max-[900px]:flex-1 short:order-last short:basis-full short:pb-1"
            title={page.fan.name}
          >
            {page.fan.name}
          </h1>
          <p className="quiet min-w-0 flex-1 truncate text-body max-[900px]:hidden">
            {[
              page.fan.place,
              [page.supply_volts_text, page.supply_hertz_text].filter(Boolean).join(' '),
              page.kind_name,
              page.fan.poles ? `${page.fan.poles} poles` : '',
            ]
              .filter(Boolean)
              .join(' · ')}
          </p>
          <div className="ml-auto flex shrink-0 items-center gap-4 text-body max-[1100px]:gap-2 short:flex-wrap">
            <WhoField />
            <Saved page={page} away={away} />
            <button
              type="button"
              className="link-button disabled:text-muted disabled:no-underline"
              disabled={!canUndo || back.isPending}
              title={canUndo ? `undo: ${page.history.undo}` : 'nothing to undo'}
              onClick={() => step('undo')}
            >
              undo
            </button>
            <button
              type="button"
              className="link-button disabled:text-muted disabled:no-underline"
              disabled={!canRedo || back.isPending}
              title={canRedo ? `redo: ${page.history.redo}` : 'nothing to redo'}
              onClick={() => step('redo')}
            >
              redo
            </button>
            <Link className="link-button inline-flex items-center" to={`/jobs/${jobId}/print`}>
              print
            </Link>
            <button type="button" className="link-button" onClick={() => setKeys(true)}>
              <span className="mono">?</span> keys
            </button>
          </div>
        </header>
        {!bare && (
          <aside className="row-span-2 row-start-2 min-h-0 pl-2 pt-1 max-[900px]:row-span-1 max-[900px]:row-start-3 short:sticky short:top-0 short:h-[min(100vh,560px)] short:min-h-[360px]">
            <AimedStaff aiming={here === 'aim' || here === 'size'} onDropped={setDropped} />
          </aside>
        )}
        {!bare && (
          <div className="col-start-2 row-start-2 min-w-0 pt-3 pr-5 max-[900px]:col-span-2 max-[900px]:col-start-1 max-[900px]:pl-5">
            <PowerPath frame={frame} selected={selected} />
          </div>
        )}
        <div className="col-start-2 row-start-3 flex min-h-0 min-w-0 flex-col pr-5">
          <nav
            aria-label="Stages"
            className="flex shrink-0 gap-x-8 border-y border-rule max-[1100px]:gap-x-5 max-[900px]:flex-wrap max-[900px]:gap-x-3 short:flex-wrap"
          >
            {stages.map((s) => (
              <Link
                key={s.key}
                to={`/jobs/${jobId}/${s.key}`}
                aria-current={s.key === here ? 'page' : undefined}
                className={`-mb-px flex h-11 items-center gap-2 border-b-[3px] text-lead whitespace-nowrap ${s.key === here ? 'border-copper font-bold' : 'quiet border-transparent'}`}
              >
                <span aria-hidden="true" className="text-note">
                  {SIGN[s.state]}
                </span>
                {s.name}
                <span className="sr-only">, {s.state}</span>
              </Link>
            ))}
            <NextStep page={page} frame={frame} />
          </nav>
          <Waiting jobId={jobId} />
          {problem && (
            <p role="alert" className="mt-2 border-l-4 border-copper pl-3 text-copper">
              {problem.detail} {problem.allowed && <span className="quiet">— {problem.allowed}</span>}
            </p>
          )}
          <main id="stage" className="relative min-h-0 flex-1 overflow-auto py-3 short:overflow-visible">
            <Boundary key={here} what={stages.find((s) => s.key === here)?.name ?? 'This stage'}>
              <Suspense fallback={<p className="quiet">Fetching this stage…</p>}>
                <Stage />
              </Suspense>
            </Boundary>
          </main>
        </div>
        <Conflict clash={clash} onDone={() => setClash(null)} />
        <Numbers page={page} open={numbers} onOpenChange={setNumbers} />
        <Keys open={keys} onOpenChange={setKeys} />
      </div>
    </JobContext>
  );
}

/** What the job waits for, pressed: it leads to the very field. */
function NextStep({ page, frame }: { page: JobPageData; frame: Frame }) {
  const go = useGo(page.job.id);
  const next = frame.next;
  if (!next) return null;
  const signed = frame.proved ? page.handovers.find((h) => !h.imported && h.revision !== null) : undefined;
  if (signed) return <p className="quiet ml-auto min-w-0 self-center truncate text-body">signed {when(signed.at)}</p>;
  return (
    <button
      type="button"
      className="ml-auto h-11 min-w-0 cursor-pointer truncate text-body font-semibold text-copper underline decoration-1 underline-offset-3 max-[900px]:ml-0 max-[900px]:h-10 max-[900px]:basis-full max-[900px]:text-left"
      title={next.text}
      onClick={() => void go(next.spot)}
    >
      {frame.proved ? 'next: sign it' : `next: ${next.text}`}
    </button>
  );
}

/** The staff; in Aim and Size its notches can be dragged, and what is dropped is saved. */
function AimedStaff({ aiming, onDropped }: { aiming: boolean; onDropped: (refused: Problem | null) => void }) {
  const { page, frame, selected, onSelect, draft, setDraft } = useJobInHand();
  const saveSteps = useSaveSteps();
  const aim = {
    wanted: draft?.wanted_rpm ?? page.job.wanted_rpm,
    // What is tried with its settings left to the wanted speeds follows the notch; a chosen regulator stays as it is.
    onDrag: (speeds: number[]) => setDraft({ ...(draft?.design ? { design: draft.design } : {}), wanted_rpm: speeds }),
    onDrop: (speeds: number[]) =>
      void saveSteps(() => speeds).then((refused) => {
        onDropped(unlessKept(refused));
        // These speeds are saved. Ones dragged to meanwhile go on, and a regulator that is pointed at by now stays tried.
        setDraft((now) => (now?.wanted_rpm && String(now.wanted_rpm) !== String(speeds) ? now : now?.design ? { design: now.design } : null));
      }),
  };
  return <Staff frame={frame} selected={selected} onSelect={onSelect} aim={aiming ? aim : undefined} />;
}

function focusStage() {
  const first = [...document.querySelectorAll<HTMLElement>('#stage :is(input, textarea, button, a[href], [tabindex="0"])')].find(
    (e) => !e.matches(':disabled, [role="tab"], [role="tablist"]') && e.offsetParent !== null,
  );
  first?.focus();
}

/** Saved when, or that Fenwit is away and how much waits on this device. */
function Saved({ page, away }: { page: JobPageData; away: boolean }) {
  const waiting = useOutbox().filter((e) => e.jobId === page.job.id).length;
  const text =
    waiting > 0 ? `offline: ${waiting} ${waiting === 1 ? 'edit' : 'edits'} kept here` : away ? 'Fenwit does not answer' : `saved ${clock(page.saved_at)}`;
  return (
    <span className={`whitespace-nowrap ${waiting > 0 || away ? 'font-semibold text-copper' : 'quiet'}`} role="status">
      {text}
    </span>
  );
}

/** Edits that waited and were refused when they were sent: each stays until it is dismissed. */
function Waiting({ jobId }: { jobId: number }) {
  const refused = useRefused().filter((r) => r.jobId === jobId);
  if (refused.length === 0) return null;
  return (
    <ul className="mt-2 space-y-1 border-l-4 border-copper pl-3" role="alert">
      {refused.map((r) => (
        <li key={r.id} className="flex items-center gap-3 text-copper">
          <span className="min-w-0 break-words">Kept while offline, but refused: {r.text}</span>
          <button type="button" className="link-button" onClick={() => outbox.dismiss(r.id)}>
            dismiss
          </button>
        </li>
      ))}
    </ul>
  );
}
