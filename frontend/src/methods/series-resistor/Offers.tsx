import type { Problem, Schemas } from '../../api/client';
import { Choice } from '../../ui/Choice';
import { ValueField } from '../../ui/ValueField';
import { OfferList } from '../shared/OfferList';
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
      <OfferList
        pending={pending}
        full={full}
        wanted={wanted}
        offers={(shown?.offers ?? []).map((offer) => ({
          ...offer,
          key: `${offer.scheme_text} ${offer.from_shelf > 0}`,
          sort: `${offer.scheme_text}${offer.from_shelf > 0 ? `, ${offer.from_shelf} from the shelf` : ''}`,
          cost_text: `${offer.heat_text} heat`,
          spoken: `${offer.scheme_text}: ${offer.text}, worst miss ${offer.miss_text}, up to ${offer.heat_text} of heat`,
          chosen: chosen !== null && same(chosen, offer.design),
          tried: tried !== null && same(tried, offer.design),
          onTry: (on) => onTry(on ? offer.design : null),
          onChoose: () => onChoose(offer.design),
        }))}
      />
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
