import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, problemOf, useReach, type Problem } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import { BuiltTabs } from '../shared/BuiltTabs';
import { framedBy } from '../shared/beside';
import { FusedParts } from '../shared/FusedParts';
import { ReachPlot } from '../shared/ReachPlot';
import { useChosen } from '../shared/useChosen';
import { useDesign } from '../shared/useDesign';
import { useSettled } from '../shared/useSettled';
import { useTry } from '../shared/useTry';
import type { DesignOf } from '../seam';

const METHOD = 'dc-voltage';
type Volts = DesignOf<'dc-voltage'>;
const WAYS: Record<NonNullable<Volts['way']>, string> = { switching: 'switching regulator', linear: 'linear regulator', resistor: 'resistor for each step' };

/** Speed over the volts at the fans, each way of lowering them, and what it bears. */
export default function Sizer() {
  const { page, frame: whole, draft } = useJobInHand();
  const frame = framedBy(whole, METHOD);
  const { keep, problem } = useDesign();
  const reach = useReach(page, METHOD);
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const jobId = page.job.id;
  const chosen = useChosen(METHOD);
  const found = useQuery({
    queryKey: ['volts', jobId, page.saved_at, wanted],
    queryFn: ({ signal }) =>
      answer(api.POST('/api/jobs/{job_id}/volts', { params: { path: { job_id: jobId } }, body: wanted ? { wanted_rpm: wanted } : {}, signal })),
    placeholderData: keepPreviousData,
    retry: false,
    enabled: Boolean(page.frame?.full),
  });
  const choose = (design: Volts): Promise<Problem | null> => keep(design, { what: 'The supply', mine: design.settings.join(', ') });
  const onTry = useTry();
  const refused = problem ?? (found.error ? problemOf(found.error) : null);
  const shown = found.data ?? null;
  const ohms = chosen?.way === 'resistor';
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[240px] flex-[1_1_280px] grid-cols-[minmax(0,1fr)_minmax(420px,1.1fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[280px_auto]">
        {reach.data ? (
          <ReachPlot reach={reach.data} frame={frame} />
        ) : (
          <p className="quiet self-center">{shown?.note ? '' : 'Reckoning the fan over its volts…'}</p>
        )}
        <section aria-label="Ways of lowering the volts" className="flex min-h-0 flex-col overflow-auto text-body">
          <h2 className="heading">What takes the rest of the volts</h2>
          {shown?.note && <p className="text-copper">{shown.note}</p>}
          {shown?.ways.map((w) => (
            <button
              key={w.way}
              type="button"
              disabled={!w.design}
              className={`row-line block min-h-10 w-full py-1.5 text-left ${w.design ? 'cursor-pointer hover:bg-shade' : ''} ${chosen?.way === w.way ? 'bg-shade/60' : ''}`}
              onPointerEnter={() => w.design && onTry(w.design)}
              onPointerLeave={() => onTry(null)}
              onFocus={() => w.design && onTry(w.design)}
              onBlur={() => onTry(null)}
              onClick={() => w.design && void choose(w.design)}
            >
              <span className="flex gap-4">
                <b>{WAYS[w.way]}</b>
                <span className="mono">{w.labels.join(', ')}</span>
                <span className="quiet ml-auto">{w.heat_text}</span>
              </span>
              {w.note && <span className="block text-note text-copper">{w.note}</span>}
            </button>
          ))}
          {chosen && (
            <div className="grid grid-cols-4 gap-x-4 pt-2">
              {chosen.settings.map((s, i) => (
                <ValueField
                  key={i}
                  inputId={`volts-${i}`}
                  label={`step ${i + 1}, ${ohms ? 'ohms or direct' : 'volts'}`}
                  text={s}
                  onCommit={(text) => choose({ ...chosen, settings: chosen.settings.map((own, k) => (k === i ? text : own)) })}
                />
              ))}
              {chosen.way === 'switching' && (
                <ValueField label="its efficiency" text={chosen.efficiency ?? ''} hint="85 %" onCommit={(efficiency) => choose({ ...chosen, efficiency })} />
              )}
              {chosen.way === 'linear' && (
                <>
                  <ValueField label="keeps for itself" text={chosen.dropout ?? ''} hint="2 V" onCommit={(dropout) => choose({ ...chosen, dropout })} />
                  <ValueField label="air around it" text={chosen.ambient ?? ''} hint="40 °C" onCommit={(ambient) => choose({ ...chosen, ambient })} />
                  <ValueField
                    label="junction at most"
                    text={chosen.junction_limit ?? ''}
                    hint="125 °C"
                    onCommit={(junction_limit) => choose({ ...chosen, junction_limit })}
                  />
                  <ValueField label="junction to sink" text={chosen.case ?? ''} hint="3 K/W" onCommit={(c) => choose({ ...chosen, case: c })} />
                </>
              )}
            </div>
          )}
          {shown?.facts.map((f) => (
            <p key={f} className="pt-0.5 text-note first-letter:uppercase">
              {f}
            </p>
          ))}
        </section>
      </div>
      <Refusal problem={refused} />
      <BuiltTabs frame={frame} noun="supply">
        <FusedParts
          frame={frame}
          empty="Take one of the ways above: pointing tries it on the staff and the path, a click keeps it."
          design={chosen}
          onChoose={choose}
        />
      </BuiltTabs>
    </div>
  );
}
