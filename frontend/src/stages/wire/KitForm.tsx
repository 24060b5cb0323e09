import { useState } from 'react';
import type { Problem, Schemas } from '../../api/client';
import { unlessKept } from '../../api/save';
import { Refusal } from '../../ui/Refusal';
import { jsonOf, type SaveWiring } from './api';
import { LinesForm, type LineField } from './LinesForm';

type Kit = Schemas['KitEdit'];

const FIELDS: readonly LineField<keyof Kit>[] = [
  { name: 'old', label: 'off the old motor', hint: '1/2 hp, 370 W shaft, 620 W in, or 2.4 A', lines: 1 },
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
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <details open={open} className="mb-3">
      <summary className="min-h-8 cursor-pointer font-semibold">the kit, the old motor, and what is wanted</summary>
      <label className="quiet mt-1 flex min-h-10 cursor-pointer items-center gap-2 text-body">
        a kit from a file:
        <input
          type="file"
          accept=".json,application/json"
          className="cursor-pointer file:mr-3 file:min-h-10 file:cursor-pointer file:border file:border-ink file:bg-transparent file:px-4 file:font-semibold"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = '';
            if (!chosen) return;
            void jsonOf(chosen)
              .then((found) => ('problem' in found ? found.problem : save({ kit_file: found.document }, chosen.name)))
              .then((p) => setProblem(unlessKept(p)));
          }}
        />
      </label>
      <Refusal problem={problem} />
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
