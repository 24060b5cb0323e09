import { useState } from 'react';
import { problemOf, useReach, type Problem } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { BuiltTabs } from '../shared/BuiltTabs';
import { framedBy } from '../shared/beside';
import { FusedParts } from '../shared/FusedParts';
import { ReachPlot } from '../shared/ReachPlot';
import { useChosen } from '../shared/useChosen';
import { useDesign } from '../shared/useDesign';
import { useSettled } from '../shared/useSettled';
import { useTry } from '../shared/useTry';
import { useSignal, type Duty, type Maker } from './api';
import { SignalForm } from './SignalForm';
import { Travel } from './Travel';

const METHOD = 'pwm';

/** Speed over the duty, or the timer over its travel; what makes the duty, and the parts around the fan. */
export default function Sizer() {
  const { page, frame: whole, draft } = useJobInHand();
  const tryOn = useTry();
  const frame = framedBy(whole, METHOD);
  const { keep, problem } = useDesign();
  const reach = useReach(page, METHOD);
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const chosen = useChosen(METHOD);
  const [looked, setLooked] = useState<Maker | null>(null);
  const maker = looked ?? chosen?.maker ?? 'microcontroller';
  const found = useSignal(page, wanted, chosen && chosen.maker === maker ? chosen : null, maker);
  const choose = async (design: Duty): Promise<Problem | null> => {
    const refused = await keep(design, { what: 'The signal', mine: design.duties.join(', ') });
    if (!refused) setLooked(null);
    return refused;
  };
  const refused = problem ?? (found.error ? problemOf(found.error) : null);
  const shown = found.data ?? null;
  const over = shown?.over ?? null;
  const files = chosen && (chosen.maker === 'microcontroller' || chosen.maker === 'bench');
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[260px] flex-[1_1_300px] grid-cols-[minmax(0,1fr)_minmax(440px,1.2fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[320px_auto]">
        {over ? (
          <Travel over={over} marks={frame.marks.flatMap((m) => (m.at === null ? [] : [{ step: m.step, at: m.at }]))} />
        ) : reach.data ? (
          <div className="flex min-h-0 flex-col">
            <div className="min-h-0 flex-1">
              <ReachPlot reach={reach.data} frame={frame} />
            </div>
            {shown?.late_text && <p className="quiet text-note">{shown.late_text}</p>}
          </div>
        ) : (
          <p className="quiet self-center">{shown?.note ? '' : 'Reckoning the fan over its duties…'}</p>
        )}
        <SignalForm shown={shown} design={chosen} maker={maker} onMaker={setLooked} onChoose={choose} onTry={tryOn} />
      </div>
      <Refusal problem={refused} />
      <BuiltTabs
        frame={frame}
        noun="signal"
        more={
          shown && chosen
            ? {
                title: 'Tests and files',
                view: (
                  <div className="space-y-1 py-2 text-body">
                    {shown.plan.map((p) => (
                      <p key={p}>{p}</p>
                    ))}
                    {files && (
                      <p className="flex gap-6">
                        <a className="link-button" href={`/api/jobs/${page.job.id}/duty.h`} download>
                          C header
                        </a>
                        <a className="link-button" href={`/api/jobs/${page.job.id}/duty.csv`} download>
                          step table, CSV
                        </a>
                      </p>
                    )}
                  </div>
                ),
              }
            : undefined
        }
      >
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
