import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, problemOf, useReach, type Problem } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Choice } from '../../ui/Choice';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import { BuiltTabs } from '../shared/BuiltTabs';
import { framedBy } from '../shared/beside';
import { FusedParts } from '../shared/FusedParts';
import { ReachPlot } from '../shared/ReachPlot';
import { useChosen } from '../shared/useChosen';
import { useDesign } from '../shared/useDesign';
import { useSettled } from '../shared/useSettled';
import type { DesignOf } from '../seam';

const METHOD = 'chopped-supply';
type Chop = DesignOf<'chopped-supply'>;

/** Speed over the duty of the supply, what chops it, and what becomes of the tachometer. */
export default function Sizer() {
  const { page, frame: whole, draft, setDraft } = useJobInHand();
  const frame = framedBy(whole, METHOD);
  const { keep, problem } = useDesign();
  const reach = useReach(page, METHOD);
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const jobId = page.job.id;
  const chosen = useChosen(METHOD);
  const found = useQuery({
    queryKey: ['chopping', jobId, page.saved_at, wanted, chosen],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/jobs/{job_id}/chopping', {
          params: { path: { job_id: jobId } },
          body: { ...(wanted ? { wanted_rpm: wanted } : {}), design: chosen },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
    enabled: Boolean(page.frame?.full),
  });
  const choose = (design: Chop): Promise<Problem | null> => keep(design, { what: 'The chopping', mine: design.duties.join(', ') });
  const onTry = (design: Chop | null) => setDraft(design ? { ...(draft?.wanted_rpm ? { wanted_rpm: draft.wanted_rpm } : {}), design } : null);
  const put = (part: Partial<Chop>) => (chosen ? choose({ ...chosen, ...part }) : Promise.resolve(null));
  const refused = problem ?? (found.error ? problemOf(found.error) : null);
  const shown = found.data ?? null;
  const first = shown?.usual ?? null;
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[240px] flex-[1_1_280px] grid-cols-[minmax(0,1fr)_minmax(420px,1.1fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[280px_auto]">
        {reach.data ? (
          <ReachPlot reach={reach.data} frame={frame} />
        ) : (
          <p className="quiet self-center">{shown?.note ? '' : 'Reckoning the fan over its duties…'}</p>
        )}
        <section aria-label="The chopping" className="flex min-h-0 flex-col overflow-auto text-body">
          <h2 className="heading">What chops the supply</h2>
          {shown?.note && <p className="text-copper">{shown.note}</p>}
          {!chosen && first && (
            <button
              type="button"
              className="button my-1 self-start"
              onPointerEnter={() => onTry(first)}
              onPointerLeave={() => onTry(null)}
              onFocus={() => onTry(first)}
              onBlur={() => onTry(null)}
              onClick={() => void choose(first)}
            >
              Take {first.duties.join(', ')}
            </button>
          )}
          {chosen && (
            <>
              <div className="grid grid-cols-4 gap-x-4">
                {chosen.duties.map((d, i) => (
                  <ValueField
                    key={i}
                    inputId={`chop-${i}`}
                    label={`step ${i + 1} duty`}
                    text={d}
                    onCommit={(text) => put({ duties: chosen.duties.map((own, k) => (k === i ? text : own)) })}
                  />
                ))}
              </div>
              <div className="grid grid-cols-4 gap-x-4">
                <ValueField label="frequency" text={chosen.frequency ?? ''} hint="25 kHz" onCommit={(frequency) => put({ frequency })} />
                <ValueField label="switch, on" text={chosen.on_resistance ?? ''} hint="30 mΩ" onCommit={(on_resistance) => put({ on_resistance })} />
                <ValueField label="its edges" text={chosen.edges ?? ''} hint="50 ns" onCommit={(edges) => put({ edges })} />
                <ValueField label="junction to air" text={chosen.junction ?? ''} hint="60 K/W" onCommit={(junction) => put({ junction })} />
              </div>
              <Choice
                label="the fans see"
                value={chosen.filtered ? 'direct' : 'raw'}
                options={['direct', 'raw']}
                say={(o) => (o === 'direct' ? 'direct volts, through a choke' : 'the chopped supply itself')}
                onPick={(o) => void put({ filtered: o === 'direct' })}
              />
              {!chosen.filtered && (
                <Choice
                  label="the tachometer is"
                  value={chosen.tach ?? 'none'}
                  options={['none', 'bridged', 'stretched']}
                  say={(o) => ({ none: 'not read', bridged: 'read with its gaps bridged', stretched: 'read while the supply is held on' })[o] ?? o}
                  onPick={(o) => void put({ tach: o as NonNullable<Chop['tach']> })}
                />
              )}
            </>
          )}
          {shown?.facts.map((f) => (
            <p key={f} className="pt-0.5 text-note first-letter:uppercase">
              {f}
            </p>
          ))}
        </section>
      </div>
      <Refusal problem={refused} />
      <BuiltTabs frame={frame} noun="switch">
        <FusedParts
          frame={frame}
          empty="Take the duties above: pointing tries them on the staff and the path, a click keeps them."
          design={chosen}
          onChoose={choose}
        />
      </BuiltTabs>
    </div>
  );
}
