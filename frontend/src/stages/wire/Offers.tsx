import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { answer, api, problemOf, type Problem } from '../../api/client';
import { unlessKept } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import type { SaveWiring } from './api';

const FIRST = 6;

/** Points that show faults which the listed ones do not; looked for when it is opened. */
export function Offers({ save }: { save: SaveWiring }) {
  const { page } = useJobInHand();
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const jobId = page.job.id;
  const found = useQuery({
    queryKey: ['wire-offers', jobId, page.job.version],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/wire/offers', { params: { path: { job_id: jobId } }, signal })),
    enabled: open,
    retry: false,
  });
  const add = (points: string[][]) =>
    void save({ points }, points.map((p) => p.join(' to ')).join(', ')).then((p) => {
      setProblem(unlessKept(p));
    });
  const data = found.data;
  return (
    <details className="mt-3" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="min-h-8 cursor-pointer font-semibold">which faults do these points not show?</summary>
      {found.error && <Refusal problem={problemOf(found.error)} />}
      <Refusal problem={problem} />
      {open && !data && !found.error && <p className="quiet">Trying every single fault…</p>}
      {data?.why_not && <p className="quiet">{data.why_not}</p>}
      {data && !data.why_not && (
        <>
          <p className="quiet">
            {data.shown} single faults show at the points above.
            {data.offers.length > 0 ? ' Each of these shows more; the most telling stands first.' : ' No further point shows another.'}
          </p>
          <ul aria-label="Points to add">
            {data.offers.map((o) => (
              <li key={`${o.first} ${o.second}`} className="row-line grid grid-cols-[minmax(0,1fr)_minmax(0,2fr)_80px] items-center gap-x-3">
                <span className="mono">
                  {o.first} – {o.second}
                </span>
                <span className="text-note">
                  {o.shows.slice(0, 3).join('; ')}
                  {o.shows.length > 3 && `; and ${o.shows.length - 3} more`}
                </span>
                <button type="button" className="link-button" aria-label={`add ${o.first} to ${o.second}`} onClick={() => add([[o.first, o.second]])}>
                  add it
                </button>
              </li>
            ))}
          </ul>
          {data.offers.length > 1 && (
            <button type="button" className="button mt-2" onClick={() => add(data.offers.slice(0, FIRST).map((o) => [o.first, o.second]))}>
              Add the first {Math.min(FIRST, data.offers.length)}
            </button>
          )}
          {data.never.length > 0 && (
            <p className="quiet mt-2 text-note">
              No ohm with the power off shows {data.never.slice(0, 8).join('; ')}
              {data.never.length > 8 && `; and ${data.never.length - 8} more`}. Lamp test and live test do.
            </p>
          )}
        </>
      )}
    </details>
  );
}
