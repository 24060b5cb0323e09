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
import { useControl, type Control, type Source } from './api';
import { ControlForm } from './ControlForm';
import { Inputs } from './Inputs';

const METHOD = 'control-voltage';

/** Speed over the volts on the input, what makes the volts, and what of them reaches every fan. */
export default function Sizer() {
  const { page, frame: whole, draft } = useJobInHand();
  const tryOn = useTry();
  const frame = framedBy(whole, METHOD);
  const { keep, problem } = useDesign();
  const reach = useReach(page, METHOD);
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const chosen = useChosen(METHOD);
  const [looked, setLooked] = useState<Source | null>(null);
  const source = looked ?? chosen?.source ?? 'knob';
  const found = useControl(page, wanted, chosen && chosen.source === source ? chosen : null, source);
  const choose = async (design: Control): Promise<Problem | null> => {
    const refused = await keep(design, { what: 'The control', mine: design.volts.join(', ') });
    if (!refused) setLooked(null);
    return refused;
  };
  const refused = problem ?? (found.error ? problemOf(found.error) : null);
  const shown = found.data ?? null;
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[260px] flex-[1_1_300px] grid-cols-[minmax(0,1fr)_minmax(440px,1.2fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[300px_auto]">
        {reach.data ? (
          <div className="flex min-h-0 flex-col">
            <div className="min-h-0 flex-1">
              <ReachPlot reach={reach.data} frame={frame} />
            </div>
            {shown?.usable_text && <p className="quiet text-note">{shown.usable_text}</p>}
          </div>
        ) : (
          <p className="quiet self-center">{shown?.note ? '' : 'Reckoning the fan over its volts…'}</p>
        )}
        <ControlForm shown={shown} design={chosen} source={source} onSource={setLooked} onChoose={choose} onTry={tryOn} />
      </div>
      <Refusal problem={refused} />
      <BuiltTabs frame={frame} noun="control" more={shown && chosen ? { title: 'Every fan, scale, dead checks', view: <Inputs shown={shown} /> } : undefined}>
        <FusedParts
          frame={frame}
          empty="Take the volts above: pointing tries them on the staff and the path, a click keeps them."
          design={chosen}
          onChoose={choose}
        />
      </BuiltTabs>
    </div>
  );
}
