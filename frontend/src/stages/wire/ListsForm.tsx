import type { Schemas } from '../../api/client';
import type { SaveWiring } from './api';
import { LinesForm, type LineField } from './LinesForm';

type Lists = Schemas['ListsEdit'];

const FIELDS: readonly LineField<keyof Lists>[] = [
  { name: 'places', label: 'places, with commas', hint: 'unit, room', lines: 1 },
  { name: 'exclusive', label: 'calls that never come together', hint: 'TH.heat, TH.cool', lines: 3 },
  { name: 'cables', label: 'cables: places; cores; earth; length; area', hint: 'W1: unit – room; red, green; earth; 18 m; 1.5 mm²', lines: 4 },
  { name: 'expect', label: 'what is expected', hint: 'DOOR shut, TH.fan, no TH.heat: M LO', lines: 4 },
  { name: 'points', label: 'points of the dead tests; empty: the usual ones', hint: 'K1.COM – M.LO', lines: 4 },
];

/** What of the circuit is typed in lines, beside its parts and wires. */
export function ListsForm({ lists, save }: { lists: Lists; save: SaveWiring }) {
  return (
    <details>
      <summary className="min-h-8 cursor-pointer font-semibold">places and cables, calls, what is expected, points to test</summary>
      <LinesForm
        of="lists"
        fields={FIELDS}
        typed={lists}
        press="Keep these"
        columns="grid-cols-2 max-[1000px]:grid-cols-1"
        onSend={(typed) => save({ lists: typed }, 'places, cables and expectations')}
      />
    </details>
  );
}
