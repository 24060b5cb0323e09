import type { Schemas } from '../../api/client';
import type { SaveWiring } from './api';
import { JsonFile } from './JsonFile';
import { LinesForm, type LineField } from './LinesForm';

type Kit = Schemas['KitEdit'];

const FIELDS: readonly LineField<keyof Kit>[] = [
  { name: 'old', label: 'off the old motor', hint: '1/2 hp, 370 W shaft, 620 W in, 2.4 A or 18 Ω', lines: 1 },
  { name: 'name', label: 'name of the new one', hint: 'X', lines: 1 },
  { name: 'circulates', label: 'circulates at, with no speed called', hint: '350 rpm', lines: 1 },
  { name: 'link', label: 'link for the volts; empty: none', hint: '115 V joined, 230 V open', lines: 1 },
  { name: 'classes', label: 'sizes: run leads and watts', hint: 'half: B, 370 W', lines: 4 },
  { name: 'speeds', label: 'speeds: inputs and rpm', hint: 'S2: S2, 780 rpm', lines: 4 },
  { name: 'wanted', label: 'wanted, what counts first on top', hint: 'TH.cool: 1080 rpm', lines: 4 },
  { name: 'idle', label: 'with no call', hint: 'off or circulate', lines: 1 },
];

/** The kit, the old motor and what is wanted, typed off plate and sheet or out of a file; planned at a press. */
export function KitForm({ kit, open, save }: { kit: Kit; open: boolean; save: SaveWiring }) {
  return (
    <details open={open} className="mb-3">
      <summary className="min-h-8 cursor-pointer font-semibold">the kit, the old motor, and what is wanted</summary>
      <JsonFile words="a kit from a file:" take={(kit_file, name) => save({ kit_file }, name)} />
      <LinesForm
        of="kit"
        fields={FIELDS}
        typed={kit}
        press="Plan it"
        columns="grid-cols-4 max-[1000px]:grid-cols-2"
        onSend={(typed) => save({ kit: typed }, 'the exchange')}
      />
    </details>
  );
}
