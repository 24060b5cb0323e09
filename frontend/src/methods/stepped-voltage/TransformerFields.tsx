import type { Problem, Schemas } from '../../api/client';
import { ValueField } from '../../ui/ValueField';
import type { PartRow } from '../shared/Parts';
import type { Stepped } from './api';

interface Props {
  part: PartRow;
  design: Stepped;
  choose: (design: Stepped) => Promise<Problem | null>;
}

/** What of a part is typed: the transformer as it is marked and as it was read, or the fuse. */
export function TransformerFields({ part, design, choose }: Props) {
  if (part.kind === 'fuse') {
    return (
      <div className="w-40">
        <ValueField label="fuse; empty: Fenwit chooses" text={design.fuse ?? ''} hint={part.bench} onCommit={(fuse) => choose({ ...design, fuse })} />
      </div>
    );
  }
  if (part.name !== 'TR') return null;
  const auto = design.winding === 'auto';
  const put = (at: number, tap: Partial<Schemas['TapEdit']>) => choose({ ...design, taps: design.taps.map((t, i) => (i === at ? { ...t, ...tap } : t)) });
  return (
    <div className="space-y-3">
      <div className="grid grid-cols-3 gap-4">
        <ValueField label="VA; empty: Fenwit chooses" text={design.va ?? ''} hint={`${part.bench} VA`} onCommit={(va) => choose({ ...design, va })} />
        <ValueField label="made for volts" text={design.rated ?? ''} hint="230 V" onCommit={(rated) => choose({ ...design, rated })} />
        <ValueField label="and hertz" text={design.rated_hz ?? ''} hint="50 Hz" onCommit={(rated_hz) => choose({ ...design, rated_hz })} />
        {!auto && (
          <ValueField
            label="volts of the whole secondary"
            text={design.whole ?? ''}
            hint="its highest tap"
            onCommit={(whole) => choose({ ...design, whole })}
          />
        )}
      </div>
      <fieldset>
        <legend className="quiet text-note">Taps, slowest first: open volts, and ohms from the common end where they were read</legend>
        {design.taps.map((tap, i) => (
          <div key={i} className="grid grid-cols-2 gap-4">
            <ValueField bare label={`volts of tap ${i + 1}`} text={tap.volts ?? ''} hint="120 V" onCommit={(volts) => put(i, { volts })} />
            <ValueField bare label={`ohms of tap ${i + 1}`} text={tap.ohms ?? ''} hint="not read" onCommit={(ohms) => put(i, { ohms })} />
          </div>
        ))}
      </fieldset>
      <fieldset>
        <legend className="quiet text-note">Read on this very one; a reading counts instead of what is usual, and narrows the bands</legend>
        <div className="grid grid-cols-2 gap-4">
          <ValueField
            label="watts, nothing connected"
            text={design.idle_watts ?? ''}
            hint="not read"
            onCommit={(idle_watts) => choose({ ...design, idle_watts })}
          />
          <ValueField
            label="amps, nothing connected"
            text={design.idle_amps ?? ''}
            hint="not read"
            onCommit={(idle_amps) => choose({ ...design, idle_amps })}
          />
          <ValueField
            label={auto ? 'ohms of the whole winding' : 'ohms of the primary'}
            text={design.primary ?? ''}
            hint="not read"
            onCommit={(primary) => choose({ ...design, primary })}
          />
          {!auto && (
            <ValueField
              label="ohms of the secondary"
              text={design.secondary ?? ''}
              hint="not read"
              onCommit={(secondary) => choose({ ...design, secondary })}
            />
          )}
        </div>
      </fieldset>
    </div>
  );
}
