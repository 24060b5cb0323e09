import { problemOf, useReach, type Problem } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { useTyped } from '../../ui/typed';
import { BuiltTabs } from '../shared/BuiltTabs';
import { framedBy } from '../shared/beside';
import { Duty, NO_SHEET } from '../shared/Duty';
import { Parts } from '../shared/Parts';
import { ReachPlot } from '../shared/ReachPlot';
import { useChosen } from '../shared/useChosen';
import { useDesign } from '../shared/useDesign';
import { useSettled } from '../shared/useSettled';
import { useTry } from '../shared/useTry';
import { useTransformers, type Stepped } from './api';
import { Offers } from './Offers';
import { TransformerFields } from './TransformerFields';

const METHOD = 'stepped-voltage';
type Around = Pick<Stepped, 'insulation' | 'room'>;

/** Speed over the volts of a tap, transformers for the wanted speeds, and what they bear. */
export default function Sizer() {
  const { page, frame: whole, draft } = useJobInHand();
  const tryOn = useTry();
  const frame = framedBy(whole, METHOD);
  const { keep, problem } = useDesign();
  const reach = useReach(page, METHOD);
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const chosen = useChosen(METHOD);
  const [typed, setTyped] = useTyped<Around>(`${page.job.id} around the transformer`, { insulation: 'B', room: '' });
  const around: Around = chosen ? { insulation: chosen.insulation, room: chosen.room } : typed;
  const tried = draft?.design?.method === METHOD ? draft.design : null;
  const found = useTransformers(page, wanted, chosen);
  const choose = (design: Stepped): Promise<Problem | null> => keep(design, { what: 'The transformer', mine: design.taps.map((t) => t.volts).join(', ') });
  const stand = (part: Partial<Around>): Promise<Problem | null> => {
    if (chosen) return choose({ ...chosen, ...part });
    setTyped({ ...typed, ...part });
    return Promise.resolve(null);
  };
  const dressed = (design: Stepped): Stepped => (chosen ? design : { ...design, ...around });
  const refused = problem ?? (found.error ? problemOf(found.error) : null);
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[220px] flex-[1_1_220px] grid-cols-[minmax(0,1fr)_minmax(400px,1.1fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[280px_auto]">
        {reach.data ? <ReachPlot reach={reach.data} frame={frame} /> : <p className="quiet self-center">Solving the fan over all taps…</p>}
        <Offers
          shown={found.data ?? null}
          pending={found.isFetching}
          full={frame.full?.value ?? 1}
          wanted={wanted ?? page.job.wanted_rpm}
          chosen={chosen}
          tried={tried}
          around={around}
          stand={stand}
          onTry={(design) => tryOn(design && dressed(design))}
          onChoose={(design) => void choose(dressed(design))}
        />
      </div>
      <Refusal problem={refused} />
      <BuiltTabs
        frame={frame}
        noun="transformer"
        more={
          chosen
            ? {
                title: 'Tap for each duty',
                view: (
                  <Duty
                    sheet={{ ...NO_SHEET, ...chosen.duty }}
                    shown={found.data?.duty ?? null}
                    steps={chosen.taps.length + (chosen.direct ? 1 : 0)}
                    save={(duty) => choose({ ...chosen, duty })}
                  />
                ),
              }
            : undefined
        }
      >
        <Parts
          frame={frame}
          empty="Choose a transformer above: pointing at a line tries it on the staff and the path, a click keeps it."
          fields={(part) => chosen && <TransformerFields part={part} design={chosen} choose={choose} />}
        />
      </BuiltTabs>
    </div>
  );
}
