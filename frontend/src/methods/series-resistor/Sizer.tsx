import { problemOf, useReach, type Problem, type Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { useTyped } from '../../ui/typed';
import { Refusal } from '../../ui/Refusal';
import { BuiltTabs } from '../shared/BuiltTabs';
import { framedBy } from '../shared/beside';
import { Parts } from '../shared/Parts';
import { ReachPlot } from '../shared/ReachPlot';
import { useChosen } from '../shared/useChosen';
import { useDesign } from '../shared/useDesign';
import { useSettled } from '../shared/useSettled';
import { useResistors, type Around, type Resistors } from './api';
import { Heat } from './Heat';
import { Offers } from './Offers';
import { ResistorFields } from './ResistorFields';

const METHOD = 'series-resistor';

/** Speed over ohms, both ways to wire them, and what each part bears in the air it stands in. */
export default function Sizer() {
  const { page, frame: whole, draft, setDraft } = useJobInHand();
  const frame = framedBy(whole, METHOD);
  const { keep, problem } = useDesign();
  const reach = useReach(page, METHOD);
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const chosen = useChosen(METHOD);
  const [typed, setTyped] = useTyped<Around>(`${page.job.id} around resistors`, { build: 'tube', enclosure: 'vented', room: '' });
  // What is chosen says what stands around it; before that it is said here.
  const around: Around = chosen ? { build: chosen.resistors[0]?.build ?? 'tube', enclosure: chosen.enclosure, room: chosen.room } : typed;
  const tried = draft?.design?.method === METHOD ? draft.design : null;
  const found = useResistors(page, wanted, around, useSettled(tried ?? chosen));
  const choose = (design: Resistors): Promise<Problem | null> =>
    keep(design, { what: 'The resistors', mine: design.resistors.map((r) => r.measured || r.value || 'from the shelf').join(' and ') });
  const stand = (part: Partial<Around>): Promise<Problem | null> => {
    if (!chosen) {
      setTyped({ ...typed, ...part });
      return Promise.resolve(null);
    }
    const { build, ...rest } = part;
    // Another build means other sizes: Fenwit chooses the watts anew.
    const anew = (r: Schemas['ResistorEdit']) => (build ? { ...r, build, watts: '', shelf_id: null } : r);
    return choose({ ...chosen, ...rest, resistors: chosen.resistors.map(anew) });
  };
  const refused = problem ?? (found.error ? problemOf(found.error) : null);
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[220px] flex-[1_1_220px] grid-cols-[minmax(0,1fr)_minmax(400px,1.1fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[280px_auto]">
        {reach.data ? <ReachPlot reach={reach.data} frame={frame} /> : <p className="quiet self-center">Solving the fan over all resistors…</p>}
        <Offers
          shown={found.data ?? null}
          pending={found.isFetching}
          full={frame.full?.value ?? 1}
          wanted={wanted ?? page.job.wanted_rpm}
          chosen={chosen}
          tried={tried}
          around={around}
          stand={stand}
          onTry={(design) => setDraft(design ? { ...(draft?.wanted_rpm ? { wanted_rpm: draft.wanted_rpm } : {}), design } : null)}
          onChoose={(design) => void choose(design)}
        />
      </div>
      <Refusal problem={refused} />
      <BuiltTabs
        frame={frame}
        noun="resistors"
        more={found.data?.heat ? { title: 'Heat and energy', view: <Heat heat={found.data.heat} chosen={tried ? null : chosen} choose={choose} /> } : undefined}
      >
        <Parts
          frame={frame}
          empty="Choose resistors above: pointing at a line tries it on the staff and the path, a click keeps it."
          fields={(part) => chosen && <ResistorFields part={part} design={chosen} choose={choose} />}
        />
      </BuiltTabs>
    </div>
  );
}
