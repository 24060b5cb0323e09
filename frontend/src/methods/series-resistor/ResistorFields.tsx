import { api, problemOf, useSave, type Problem, type Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';
import type { PartRow } from '../shared/Parts';
import type { Resistors } from './api';

const NAMES = ['R1', 'R2', 'R3', 'R4', 'R5'];

interface Props {
  part: PartRow;
  design: Resistors;
  choose: (design: Resistors) => Promise<Problem | null>;
}

/** What of a part is typed: a resistor, or the fuse. */
export function ResistorFields({ part, design, choose }: Props) {
  const { page } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const reserve = useSave(jobId, (count: number) =>
    api.PUT('/api/jobs/{job_id}/reservations', { params: { path: { job_id: jobId } }, body: { part_id: part.shelf_id ?? 0, count, who } }),
  );
  if (part.kind === 'fuse') {
    return (
      <div className="w-40">
        <ValueField label="fuse; empty: Fenwit chooses" text={design.fuse} hint={part.bench} onCommit={(fuse) => choose({ ...design, fuse })} />
      </div>
    );
  }
  const at = NAMES.indexOf(part.name);
  const mine = design.resistors[at];
  if (!mine) return null;
  // What is typed here is another part than the one on the shelf, until it is put there.
  const put = (edit: Partial<Schemas['ResistorEdit']>) =>
    choose({ ...design, resistors: design.resistors.map((r, i) => (i === at ? { ...r, shelf_id: null, ...edit } : r)) });
  const aside = page.aside.find((a) => a.part_id === part.shelf_id);
  return (
    <div className="space-y-2">
      <div className="grid grid-cols-2 gap-4">
        <ValueField label={`resistor ${part.name}, as printed`} text={mine.value ?? ''} hint="470" onCommit={(value) => put({ value, measured: '' })} />
        <ValueField
          label={`resistor ${part.name}, as measured cold`}
          text={mine.measured ?? ''}
          hint="not measured"
          onCommit={(measured) => put({ measured })}
        />
        <ValueField label="rated watts; empty: Fenwit chooses" text={mine.watts ?? ''} hint={part.rating_text} onCommit={(watts) => put({ watts })} />
        <ValueField label="tolerance" text={mine.tolerance ?? ''} hint="5 %" onCommit={(tolerance) => put({ tolerance })} />
      </div>
      <p className="quiet text-note">A measured value counts instead of the printed one, with the meter’s own error only: bands get narrower.</p>
      {aside && (
        <button type="button" className="link-button" onClick={() => reserve.mutate(aside.reserved > 0 ? 0 : 1)}>
          {aside.reserved > 0 ? `give back to ${aside.place || 'the shelf'}` : `put aside from ${aside.place || 'the shelf'}`}
        </button>
      )}
      <Refusal problem={reserve.error ? problemOf(reserve.error) : null} />
    </div>
  );
}
