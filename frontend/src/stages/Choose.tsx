import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { problemOf, type Problem, type Schemas } from '../api/client';
import { unlessKept, useEdits } from '../api/save';
import { useJobInHand } from '../job/context';
import { Refusal } from '../ui/Refusal';
import { useWho } from '../ui/who';
import { AllNumbers } from './choose/AllNumbers';
import { useChoose } from './choose/api';
import { Details } from './choose/Details';
import { Rows } from './choose/Rows';
import { Use } from './choose/Use';
import { Wishes } from './choose/Wishes';

/** How should it be regulated? Every way at the same wanted speeds, solved, in the order of what matters. */
export default function Choose() {
  const { page, frame, selected, setBeside, onClash } = useJobInHand();
  const { who } = useWho();
  const navigate = useNavigate();
  const save = useEdits(page.job.id, onClash);
  const { shown, solving, error } = useChoose(page);
  const [picked, setPicked] = useState<string | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [taking, setTaking] = useState(false);
  const open = shown?.rows.filter((r) => r.live) ?? [];
  const row = open.find((r) => r.key === picked) ?? open.find((r) => r.method === page.design?.method) ?? open[0] ?? null;
  const live = row?.live ?? null;
  // Staff and path follow the way that is looked at: it is solved already, so they turn at once.
  useEffect(() => setBeside(live), [live, setBeside]);
  useEffect(() => () => setBeside(null), [setBeside]);

  const sizing = async (edit: Schemas['SizingEdit'], what: string, mine: string): Promise<Problem | null> => {
    const refused = await save({
      kind: 'job',
      method: 'PATCH',
      path: `/api/jobs/${page.job.id}`,
      body: { sizing: edit, who },
      versionField: 'version',
      from: page.job.version,
      replaces: { sizing: page.job.sizing },
      what,
      mine,
    });
    return refused;
  };
  const choosing = (edit: Schemas['ChoosingEdit']) => sizing({ choosing: edit }, 'What matters', JSON.stringify(edit));
  const take = async () => {
    if (!row || taking) return;
    setTaking(true);
    // A design that is chosen stays as it is until another takes its place in Size.
    const refused = page.design ? null : unlessKept(await sizing({ method: row.method }, 'The method', row.name));
    setTaking(false);
    setProblem(refused);
    if (!refused) void navigate(`/jobs/${page.job.id}/size?by=${row.method}`);
  };

  if (!frame.full && !shown?.full) {
    return (
      <p className="quiet">
        Ways can be compared once full speed is known: {frame.missing.map((m) => m.text).join(', ') || 'see what is refused in Identify'}.
      </p>
    );
  }
  if (!shown) return error ? <Refusal problem={problemOf(error)} /> : <p className="quiet">Solving every way at the wanted speeds…</p>;
  const others = shown.rows.filter((r) => !r.live);
  return (
    <div className="flex min-h-full flex-col gap-2">
      <div className="flex flex-wrap items-center gap-x-4">
        <Wishes
          wishes={shown.wishes}
          counted={shown.counted}
          save={async (wishes) => {
            const refused = unlessKept(await choosing({ wishes }));
            setProblem(refused);
            return refused;
          }}
        />
        <span className="ml-auto flex items-center gap-4">
          <span role="status" className="quiet text-note">
            {solving ? 'solving…' : ''}
          </span>
          <AllNumbers shown={shown} />
          <Use shown={shown} save={choosing} />
        </span>
      </div>
      <Refusal problem={problem} />
      {shown.note && <p className="quiet">{shown.note}</p>}
      {open.length > 0 && (
        <Rows shown={shown} full={shown.full?.value ?? 1} selected={selected} looked={row?.key ?? null} onLook={setPicked} onTake={() => void take()} />
      )}
      {others.length > 0 && (
        <ul aria-label="Not to be had" className="text-note">
          {others.map((r) => (
            <li key={r.key} className="row-line grid min-h-6 grid-cols-[166px_minmax(0,1fr)] gap-3">
              <span className={r.state === 'refused' ? 'line-through' : ''}>{r.name}</span>
              <span className={r.state === 'refused' ? 'text-copper' : 'quiet'}>{r.words}</span>
            </li>
          ))}
        </ul>
      )}
      {row && <Details row={row} onTake={() => void take()} taking={taking} />}
    </div>
  );
}
