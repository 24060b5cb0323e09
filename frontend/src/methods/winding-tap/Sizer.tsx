import { problemOf, useReach, type Problem } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { BuiltTabs } from '../shared/BuiltTabs';
import { framedBy } from '../shared/beside';
import { Duty, NO_SHEET } from '../shared/Duty';
import { FusedParts } from '../shared/FusedParts';
import { ReachPlot } from '../shared/ReachPlot';
import { useChosen } from '../shared/useChosen';
import { useDesign } from '../shared/useDesign';
import { useSettled } from '../shared/useSettled';
import { useTry } from '../shared/useTry';
import { useTaps, type Taps } from './api';
import { Switching } from './Switching';
import { TapTable } from './TapTable';

const METHOD = 'winding-tap';

/** Speed over turns, every tap before power, which position feeds which, and which tap for which duty. */
export default function Sizer() {
  const { page, frame: whole, draft } = useJobInHand();
  const tryOn = useTry();
  const frame = framedBy(whole, METHOD);
  const { keep, problem } = useDesign();
  const reach = useReach(page, METHOD);
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const chosen = useChosen(METHOD);
  const tried = draft?.design?.method === METHOD ? draft.design : null;
  const found = useTaps(page, wanted, tried ?? chosen);
  const choose = (design: Taps): Promise<Problem | null> => keep(design, { what: 'The taps', mine: design.positions.map((p) => p.join(' + ')).join(', ') });
  const refused = problem ?? (found.error ? problemOf(found.error) : null);
  const shown = found.data ?? null;
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[220px] flex-[1_1_260px] grid-cols-[minmax(0,1fr)_minmax(440px,1.3fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[260px_auto]">
        {reach.data ? (
          <ReachPlot reach={reach.data} frame={frame} />
        ) : (
          <p className="quiet self-center">{shown?.note ? '' : 'Solving the fan on every tap…'}</p>
        )}
        <section aria-label="Taps of this motor" aria-busy={found.isFetching} className="flex min-h-0 flex-col overflow-auto text-body">
          <h2 className="heading">Taps of this motor</h2>
          {shown?.note && <p className="text-copper">{shown.note}</p>}
          {shown && shown.taps.length > 0 && <TapTable shown={shown} branch={chosen?.branch ?? null} />}
          <Switching shown={shown} design={chosen} onChoose={choose} onTry={tryOn} />
        </section>
      </div>
      <Refusal problem={refused} />
      <BuiltTabs
        frame={frame}
        noun="taps"
        more={
          chosen
            ? {
                title: 'Tap for each duty',
                view: (
                  <Duty
                    sheet={{ ...NO_SHEET, ...chosen.duty }}
                    shown={shown?.duty ?? null}
                    steps={chosen.positions.length}
                    save={(duty) => choose({ ...chosen, duty })}
                  />
                ),
              }
            : undefined
        }
      >
        <FusedParts
          frame={frame}
          empty="Take the taps above: pointing tries them on the staff and the path, a click keeps them."
          design={chosen}
          onChoose={choose}
        />
      </BuiltTabs>
    </div>
  );
}
