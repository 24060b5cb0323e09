import type { Problem, Schemas } from '../../api/client';
import { Choice } from '../../ui/Choice';
import { ValueField } from '../../ui/ValueField';
import { Rod } from '../shared/Rod';
import type { Around, Resistors } from './api';

interface Props {
  shown: Schemas['ResistorsShown'] | null;
  pending: boolean;
  full: number;
  wanted: readonly number[];
  chosen: Resistors | null;
  tried: Resistors | null;
  around: Around;
  stand: (part: Partial<Around>) => Promise<Problem | null>;
  onTry: (design: Resistors | null) => void;
  onChoose: (design: Resistors) => void;
}

/** Both ways to wire resistors for the wanted speeds, and what stands around them. */
export function Offers({ shown, pending, full, wanted, chosen, tried, around, stand, onTry, onChoose }: Props) {
  const text = (options: readonly Schemas['Option'][] | undefined, key: string) => options?.find((o) => o.key === key)?.text ?? key;
  return (
    <section aria-label="Resistors" aria-busy={pending} className="flex min-h-0 flex-col overflow-auto text-body" onPointerLeave={() => tried && onTry(null)}>
      <h2 className="heading">Resistors for these steps</h2>
      {shown?.note && <p className="text-copper">{shown.note}</p>}
      <ul className={pending ? 'opacity-70' : ''}>
        {(shown?.offers ?? []).map((offer) => {
          const { design } = offer;
          const on = chosen !== null && same(chosen, design);
          const tryIt = () => onTry(on ? null : design);
          return (
            <li key={`${offer.scheme_text} ${offer.from_shelf > 0}`} className="row-line">
              <button
                type="button"
                aria-pressed={on}
                aria-label={`${offer.scheme_text}: ${offer.text}, worst miss ${offer.miss_text}, up to ${offer.heat_text} of heat, ${on ? 'chosen' : 'choose'}${offer.refusal ? `; ${offer.refusal}` : ''}`}
                onPointerEnter={tryIt}
                onFocus={tryIt}
                onBlur={() => onTry(null)}
                onClick={() => onChoose(design)}
                className={`grid min-h-11 w-full grid-cols-[minmax(0,1fr)_96px_76px] items-center gap-3 py-0.5 text-left ${on ? 'font-bold text-copper' : ''} ${tried !== null && same(tried, design) ? 'bg-shade' : ''}`}
              >
                <span className="min-w-0">
                  <span className="mono block truncate" title={offer.text}>
                    {offer.text}
                  </span>
                  <span className="quiet block text-note font-normal">
                    {offer.scheme_text}
                    {offer.from_shelf > 0 && `, ${offer.from_shelf} from the shelf`}
                  </span>
                  {offer.refusal && <span className="block text-note font-semibold text-copper">△ {offer.refusal}</span>}
                </span>
                <Rod speeds={offer.speed_rpm} wanted={wanted} full={full} />
                <span className="text-right text-note">
                  <span className="mono block text-lead">{offer.miss_text}</span>
                  <span className="quiet block font-normal">{offer.heat_text} heat</span>
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      <div className="border-t border-rule pt-1">
        <Choice
          label="resistors to buy"
          value={around.build}
          options={(shown?.builds ?? []).map((o) => o.key)}
          say={(k) => text(shown?.builds, k)}
          onPick={(build) => void stand({ build: build as Around['build'] })}
        />
        <Choice
          label="around them"
          value={around.enclosure}
          options={(shown?.enclosures ?? []).map((o) => o.key)}
          say={(k) => text(shown?.enclosures, k)}
          onPick={(enclosure) => void stand({ enclosure: enclosure as Around['enclosure'] })}
        />
        <div className="flex items-center gap-3">
          <span className="quiet w-[150px] shrink-0" aria-hidden="true">
            room at its warmest
          </span>
          <div className="w-28">
            <ValueField bare label="room at its warmest" text={around.room} hint="30 °C" onCommit={(room) => stand({ room })} />
          </div>
        </div>
      </div>
    </section>
  );
}

const ohms = (d: Resistors) => JSON.stringify([d.scheme, d.resistors.map((r) => [r.value, r.build, r.shelf_id ?? null])]);
const same = (a: Resistors, b: Resistors) => ohms(a) === ohms(b);
