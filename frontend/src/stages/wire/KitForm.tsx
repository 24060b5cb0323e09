import { useState } from 'react';
import type { Problem, Schemas } from '../../api/client';
import { unlessKept } from '../../api/save';
import type { SaveWiring } from './api';

type Kit = Schemas['KitEdit'];
type Field = keyof Kit;

const FIELDS: readonly (readonly [Field, string, string, number])[] = [
  ['old', 'off the old motor', '1/2 hp, 370 W shaft, 620 W in, or 2.4 A', 1],
  ['name', 'name of the new one', 'X', 1],
  ['circulates', 'circulates at, with no speed called', '350 rpm', 1],
  ['link', 'link for the volts; empty: none', '115 V joined, 230 V open', 1],
  ['classes', 'sizes: run leads and watts', 'half: B, 370 W', 4],
  ['speeds', 'speeds: inputs and rpm', 'S2: S2, 780 rpm', 4],
  ['wanted', 'wanted, what counts first on top', 'TH.cool: 1080 rpm', 4],
  ['idle', 'with no call', 'off or circulate', 1],
];

/** The kit, the old motor and what is wanted, typed off plate and sheet; planned at a press. */
export function KitForm({ kit, open, save }: { kit: Kit; open: boolean; save: SaveWiring }) {
  const [typed, setTyped] = useState<Kit>(kit);
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <details open={open} className="mb-3">
      <summary className="min-h-8 cursor-pointer font-semibold">the kit, the old motor, and what is wanted</summary>
      <form
        className="mt-1 grid grid-cols-4 items-start gap-x-6 gap-y-2 max-[1000px]:grid-cols-2"
        onSubmit={(event) => {
          event.preventDefault();
          void save({ kit: typed }, 'the exchange').then((p) => setProblem(unlessKept(p)));
        }}
      >
        {FIELDS.map(([name, label, hint, lines]) => {
          const mine = problem?.field === name;
          const shared = {
            id: `kit-${name}`,
            value: typed[name] ?? '',
            placeholder: hint,
            'aria-invalid': mine,
            'aria-describedby': `kit-${name}-note`,
            onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
          };
          return (
            <div key={name} className={lines > 1 ? 'row-span-2' : ''}>
              <label htmlFor={shared.id} className="quiet block text-note">
                {label}
              </label>
              {lines > 1 ? (
                <textarea {...shared} rows={lines} className="input mono resize-none py-2 text-body" maxLength={4000} />
              ) : (
                <input {...shared} className="input mono" maxLength={120} autoComplete="off" />
              )}
              <p id={`kit-${name}-note`} role={mine ? 'alert' : undefined} className="text-note text-copper">
                {mine && (
                  <>
                    {problem.detail} {problem.allowed && <span className="quiet">— {problem.allowed}</span>}
                  </>
                )}
              </p>
            </div>
          );
        })}
        <div>
          <button type="submit" className="button">
            Plan it
          </button>
          {problem && !FIELDS.some(([name]) => name === problem.field) && (
            <p role="alert" className="text-copper">
              {problem.detail}
            </p>
          )}
        </div>
      </form>
    </details>
  );
}
