import { useQuery } from '@tanstack/react-query';
import { answer, api, problemOf, useSave } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { useWho } from '../../ui/who';
import { Tick } from './Lists';

/** What it is built of: drawer by drawer, then what lies on no shelf. */
export function Parts() {
  const { page, frame } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const found = useQuery({
    queryKey: ['wire-parts', jobId, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/wire/parts', { params: { path: { job_id: jobId } }, signal })),
    placeholderData: (before) => before,
    retry: false,
  });
  const all = useSave(jobId, () => api.PUT('/api/jobs/{job_id}/wire/parts/aside', { params: { path: { job_id: jobId } }, body: { who } }));
  if (!found.data) return found.error ? <Refusal problem={problemOf(found.error)} /> : <p className="quiet">Looking through the drawers…</p>;
  const { lines, to_take, to_buy } = found.data;
  const drawers = [...new Set(lines.map((l) => l.place))];
  return (
    <div className="grid grid-cols-[minmax(0,3fr)_minmax(0,1fr)] gap-x-8 gap-y-4 max-[1000px]:grid-cols-1">
      <section aria-label="Pick list">
        {lines.length === 0 && <p className="quiet">Nothing is needed beside the supply and the motor.</p>}
        {drawers.map((place) => (
          <div key={place}>
            <h3 className="heading mt-2">{place || 'On no shelf here'}</h3>
            <ul>
              {lines
                .filter((l) => l.place === place)
                .map((l) => (
                  <li key={l.read.key} className="row-line grid grid-cols-[40px_44px_minmax(0,1fr)_minmax(0,2fr)_minmax(0,1.2fr)] items-center gap-x-3">
                    {place && l.to_buy === 0 ? (
                      <span className="flex size-10 items-center justify-center text-title" role="img" aria-label={l.to_take ? 'in its drawer' : 'put aside'}>
                        {l.to_take ? '▫' : '▪'}
                      </span>
                    ) : (
                      <Tick read={l.read} what="The tick of a part" say={`${l.words} at hand`} />
                    )}
                    <span className="mono text-right">{l.count} ×</span>
                    <span className="mono truncate font-semibold" title={l.names}>
                      {l.names}
                    </span>
                    <span>{l.words}</span>
                    <span className="quiet text-note">{standing(l)}</span>
                  </li>
                ))}
            </ul>
          </div>
        ))}
      </section>
      <section aria-label="What is missing" className="space-y-2">
        <p>
          {to_take > 0 ? (
            <>
              <b>{to_take}</b> {to_take === 1 ? 'piece lies' : 'pieces lie'} in the drawers.
            </>
          ) : (
            'Nothing more of it lies in a drawer.'
          )}
        </p>
        {to_take > 0 && (
          <button type="button" className="button button-main" disabled={all.isPending} onClick={() => all.mutate(undefined)}>
            Put all aside
          </button>
        )}
        <p>{to_buy > 0 ? `${to_buy} still to get.` : 'Nothing is left to get.'}</p>
        {all.error && <Refusal problem={problemOf(all.error)} />}
        <p className="quiet text-note">
          A part put aside stays in its drawer, kept for this job. Giving back, and taking off the shelf what is built in: Hand over.
        </p>
      </section>
      {page.design && (
        <section aria-label="Schematic" className="col-span-full min-w-0">
          <h3 className="heading">Schematic of the regulator</h3>
          <div className="overflow-auto">
            <img
              src={`/api/jobs/${jobId}/schematic.svg?at=${encodeURIComponent(page.saved_at)}`}
              alt={`Schematic of the regulator: ${frame.parts.map((p) => `${p.name} ${p.paper || p.text}`).join('; ')}`}
              className="schematic w-full max-w-[860px] min-w-[760px]"
            />
          </div>
        </section>
      )}
    </div>
  );
}

function standing(l: { aside: number; to_take: number; to_buy: number; read: { text: string; told: string } }): string {
  const told = [l.aside ? `${l.aside} put aside` : '', l.to_take ? `${l.to_take} to take` : '', l.to_buy && l.read.text !== 'yes' ? `${l.to_buy} to get` : ''];
  if (l.read.text === 'yes') told.push(`at hand, ${l.read.told}`);
  return told.filter(Boolean).join(', ');
}
