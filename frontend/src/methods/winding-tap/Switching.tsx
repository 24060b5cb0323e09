import type { Problem, Schemas } from '../../api/client';
import { Choice } from '../../ui/Choice';
import type { Taps } from './api';

interface Props {
  shown: Schemas['TapsShown'] | null;
  design: Taps | null;
  onChoose: (design: Taps) => Promise<Problem | null>;
  onTry: (design: Taps | null) => void;
}

/** Which position of the switch feeds which tap, and how the start branch hangs. */
export function Switching({ shown, design, onChoose, onTry }: Props) {
  const names = shown?.taps.map((t) => t.name) ?? [];
  const usual = shown?.usual ?? null;
  if (!design) {
    return usual ? (
      <div className="pt-2">
        <p>
          {usual.positions.length} positions: {usual.positions.map((fed, i) => `${i + 1} feeds ${fed.join(' + ')}`).join(', ')}.
        </p>
        <button
          type="button"
          className="button mt-2"
          onPointerEnter={() => onTry(usual)}
          onPointerLeave={() => onTry(null)}
          onFocus={() => onTry(usual)}
          onBlur={() => onTry(null)}
          onClick={() => void onChoose(usual)}
        >
          Take these taps
        </button>
      </div>
    ) : null;
  }
  const put = (at: number, name: string) => void onChoose({ ...design, positions: design.positions.map((fed, i) => (i === at ? [name] : fed)) });
  return (
    <div className="pt-1">
      {design.positions.map((fed, i) => (
        <Choice key={i} label={`position ${i + 1} feeds`} value={fed.length === 1 ? (fed[0] ?? '') : ''} options={names} onPick={(name) => put(i, name)} />
      ))}
      <div className="flex gap-4 py-1">
        {design.positions.length < Math.min(6, names.length) && (
          <button type="button" className="link-button" onClick={() => void onChoose({ ...design, positions: [...design.positions, [names[0] ?? '']] })}>
            one more position
          </button>
        )}
        {design.positions.length > 1 && (
          <button type="button" className="link-button" onClick={() => void onChoose({ ...design, positions: design.positions.slice(0, -1) })}>
            one position less
          </button>
        )}
      </div>
      {!shown?.known && (
        <Choice
          label="start branch"
          value={design.branch ?? 'unknown'}
          options={['unknown', ...(shown?.branches.map((b) => b.key) ?? [])]}
          say={(k) => shown?.branches.find((b) => b.key === k)?.text ?? 'not known'}
          onPick={(k) => void onChoose({ ...design, branch: k === 'unknown' ? null : (k as NonNullable<Taps['branch']>) })}
        />
      )}
      <Choice
        label="the switch"
        value={design.switch?.make_before_break ? 'makes' : 'breaks'}
        options={['breaks', 'makes']}
        say={(k) => (k === 'breaks' ? 'breaks before it makes' : 'makes before it breaks')}
        onPick={(k) => design.switch && void onChoose({ ...design, switch: { ...design.switch, make_before_break: k === 'makes' } })}
      />
      <Choice
        label="its contacts"
        value={String(design.switch?.rated_voltage_v ?? 400)}
        options={['250', '400']}
        say={(k) => `for ${k} V`}
        onPick={(k) => design.switch && void onChoose({ ...design, switch: { ...design.switch, rated_voltage_v: Number(k) } })}
      />
    </div>
  );
}
