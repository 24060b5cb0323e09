import { Rod } from './Rod';

export interface OfferLine {
  key: string;
  text: string;
  /** What sort it is, under its values. */
  sort: string;
  speed_rpm: readonly number[];
  miss_text: string;
  /** What it costs, like watts of heat. */
  cost_text: string;
  refusal: string;
  /** Spoken in place of the parts. */
  spoken: string;
  chosen: boolean;
  tried: boolean;
  onTry: (on: boolean) => void;
  onChoose: () => void;
}

interface Props {
  offers: readonly OfferLine[];
  pending: boolean;
  full: number;
  wanted: readonly number[];
}

/** Regulators to choose from: pointing at one tries it on staff and path, a click keeps it. */
export function OfferList({ offers, pending, full, wanted }: Props) {
  return (
    <ul className={pending ? 'opacity-70' : ''}>
      {offers.map((offer) => (
        <li key={offer.key} className="row-line">
          <button
            type="button"
            aria-pressed={offer.chosen}
            aria-label={`${offer.spoken}, ${offer.chosen ? 'chosen' : 'choose'}${offer.refusal ? `; ${offer.refusal}` : ''}`}
            onPointerEnter={() => offer.onTry(!offer.chosen)}
            onFocus={() => offer.onTry(!offer.chosen)}
            onBlur={() => offer.onTry(false)}
            onClick={offer.onChoose}
            className={`grid min-h-11 w-full grid-cols-[minmax(0,1fr)_96px_76px] items-center gap-3 py-0.5 text-left ${offer.chosen ? 'font-bold text-copper' : ''} ${offer.tried ? 'bg-shade' : ''}`}
          >
            <span className="min-w-0">
              <span className="mono block truncate" title={offer.text}>
                {offer.text}
              </span>
              <span className="quiet block text-note font-normal">{offer.sort}</span>
              {offer.refusal && <span className="block text-note font-semibold text-copper">△ {offer.refusal}</span>}
            </span>
            <Rod speeds={offer.speed_rpm} wanted={wanted} full={full} />
            <span className="text-right text-note">
              <span className="mono block text-lead">{offer.miss_text}</span>
              <span className="quiet block font-normal">{offer.cost_text}</span>
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}
