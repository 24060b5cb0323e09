import { Tabs } from 'radix-ui';
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import { problemOf, type Problem } from '../api/client';
import { unlessKept } from '../api/save';
import { useJobInHand } from '../job/context';
import { Cautions } from '../ui/Cautions';
import { Refusal } from '../ui/Refusal';
import { useInspect, useSaveBoard, type Shown } from './inspect/api';
import { Findings } from './inspect/Findings';
import { Mend } from './inspect/Mend';
import { Parts } from './inspect/Parts';
import { Search } from './inspect/Search';
import { Does } from './inspect/Does';

const PARTS = ['board', 'does', 'findings', 'fault', 'mend'] as const;
type Part = (typeof PARTS)[number];

/** The control that came in: read off its board, judged, searched for its fault, mended. */
export default function Inspect() {
  const { page, setBeside } = useJobInHand();
  const [search, setSearch] = useSearchParams();
  const part: Part = PARTS.find((p) => p === search.get('part')) ?? 'board';
  const [suppose, setSuppose] = useState('');
  const { shown, typed, solving, error } = useInspect(page, suppose, part === 'mend');
  const save = useSaveBoard();
  const live = shown?.live ?? null;
  // Staff and path show this control's own places while it is looked at.
  useEffect(() => setBeside(live), [live, setBeside]);
  useEffect(() => () => setBeside(null), [setBeside]);
  if (!shown) return error ? <Refusal problem={problemOf(error)} /> : <p className="quiet">Reading the board…</p>;
  if (!typed || !shown.topology) return <First shown={shown} save={(topology) => save({ topology }, topology)} />;
  const say: Record<Part, string> = {
    board: 'board',
    does: 'what it does',
    findings: shown.findings.length ? `findings ${shown.findings.filter((f) => f.severity !== 'note').length}` : 'findings',
    fault: 'what is the matter',
    mend: 'mend',
  };
  return (
    <Tabs.Root value={part} onValueChange={(p) => setSearch(p === 'board' ? {} : { part: p }, { replace: true })}>
      <div className="-mt-2 mb-2 flex flex-wrap items-center gap-x-7">
        <Tabs.List aria-label="Parts of Inspect" className="flex gap-7">
          {PARTS.map((p) => (
            <Tabs.Trigger key={p} value={p} className="tab">
              {say[p]}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <span role="status" className="quiet ml-auto text-note">
          {solving ? 'solving…' : ''}
        </span>
      </div>
      {shown.refused && (
        <p role="alert" className="pb-2 text-copper">
          Nothing can be computed of it yet: {shown.refused}
        </p>
      )}
      <Tabs.Content value="board" tabIndex={-1}>
        <Cautions stage="inspect" brief />
        <Parts shown={shown} typed={typed} save={save} />
      </Tabs.Content>
      <Tabs.Content value="does" tabIndex={-1}>
        <Does shown={shown} typed={typed} save={save} />
      </Tabs.Content>
      <Tabs.Content value="findings" tabIndex={-1}>
        <Findings shown={shown} save={save} />
      </Tabs.Content>
      <Tabs.Content value="fault" tabIndex={-1}>
        <Cautions stage="inspect" brief />
        <Search shown={shown} save={save} suppose={suppose} onSuppose={setSuppose} onMend={() => setSearch({ part: 'mend' }, { replace: true })} />
      </Tabs.Content>
      <Tabs.Content value="mend" tabIndex={-1}>
        <Mend shown={shown} save={save} onSearch={() => setSearch({ part: 'fault' }, { replace: true })} />
      </Tabs.Content>
    </Tabs.Root>
  );
}

/** Nothing was told of a control yet: how is it made? */
function First({ shown, save }: { shown: Shown; save: (topology: Shown['templates'][number]['key']) => Promise<Problem | null> }) {
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <section aria-label="How is it made?" className="max-w-[760px]">
      <h2 className="heading">Did a control come in with this fan? How is it made?</h2>
      <p className="quiet pb-2">Look at its board, dead and discharged. What cannot be read may stay open: it is reckoned with what such parts usually are.</p>
      <ul>
        {shown.templates.map((t) => (
          <li key={t.key} className="row-line grid grid-cols-[250px_minmax(0,1fr)] items-center gap-4 py-1 max-[720px]:grid-cols-1">
            <button type="button" className="button text-left whitespace-normal!" onClick={() => void save(t.key).then((p) => setProblem(unlessKept(p)))}>
              {t.name}
            </button>
            <span className="quiet text-body">
              {t.parts
                .slice(0, 8)
                .map((p) => p.name)
                .join(', ')}
            </span>
          </li>
        ))}
      </ul>
      <Refusal problem={problem} />
      <p className="quiet pt-3">If none came in, go on to Aim.</p>
    </section>
  );
}
