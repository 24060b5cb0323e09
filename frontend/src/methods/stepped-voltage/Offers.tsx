import type { Problem, Schemas } from '../../api/client';
import { Choice } from '../../ui/Choice';
import { ValueField } from '../../ui/ValueField';
import { OfferList } from '../shared/OfferList';
import type { Stepped } from './api';

interface Props {
  shown: Schemas['TransformersShown'] | null;
  pending: boolean;
  full: number;
  wanted: readonly number[];
  chosen: Stepped | null;
  tried: Stepped | null;
  around: Pick<Stepped, 'insulation' | 'room'>;
  stand: (part: Partial<Pick<Stepped, 'insulation' | 'room'>>) => Promise<Problem | null>;
  onTry: (design: Stepped | null) => void;
  onChoose: (design: Stepped) => void;
}

/** An autotransformer and a separate one for the wanted speeds, and what stands around them. */
export function Offers({ shown, pending, full, wanted, chosen, tried, around, stand, onTry, onChoose }: Props) {
  const classes = shown?.insulations ?? [];
  return (
    <section
      aria-label="Transformers"
      aria-busy={pending}
      className="flex min-h-0 flex-col overflow-auto text-body"
      onPointerLeave={() => tried && onTry(null)}
    >
      <h2 className="heading">Transformers for these steps</h2>
      {shown?.note && <p className="text-copper">{shown.note}</p>}
      <OfferList
        pending={pending}
        full={full}
        wanted={wanted}
        offers={(shown?.offers ?? []).map((offer) => ({
          ...offer,
          key: offer.kind_text,
          sort: offer.kind_text,
          cost_text: `${offer.heat_text} lost`,
          spoken: `${offer.kind_text}: ${offer.text}, worst miss ${offer.miss_text}, up to ${offer.heat_text} lost in it`,
          chosen: chosen !== null && same(chosen, offer.design),
          tried: tried !== null && same(tried, offer.design),
          onTry: (on) => onTry(on ? offer.design : null),
          onChoose: () => onChoose(offer.design),
        }))}
      />
      <div className="border-t border-rule pt-1">
        <Choice
          label="insulation class"
          value={around.insulation ?? 'B'}
          options={classes.map((c) => c.key)}
          say={(k) => classes.find((c) => c.key === k)?.text ?? k}
          onPick={(insulation) => void stand({ insulation: insulation as NonNullable<Stepped['insulation']> })}
        />
        <div className="flex items-center gap-3">
          <span className="quiet w-[150px] shrink-0" aria-hidden="true">
            room at its warmest
          </span>
          <div className="w-28">
            <ValueField bare label="room at its warmest" text={around.room ?? ''} hint="30 °C" onCommit={(room) => stand({ room })} />
          </div>
        </div>
      </div>
    </section>
  );
}

const taps = (d: Stepped) => JSON.stringify([d.winding, d.direct, d.taps.map((t) => t.volts)]);
const same = (a: Stepped, b: Stepped) => taps(a) === taps(b);
