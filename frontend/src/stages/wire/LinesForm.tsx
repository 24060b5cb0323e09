import { useState } from 'react';
import type { Problem } from '../../api/client';
import { unlessKept } from '../../api/save';

export interface LineField<T extends string> {
  name: T;
  label: string;
  hint: string;
  lines: number;
}

interface Props<T extends string> {
  /** What the fields are called by, for their labels. */
  of: string;
  fields: readonly LineField<T>[];
  typed: Record<T, string>;
  press: string;
  columns: string;
  onSend: (typed: Record<T, string>) => Promise<Problem | null>;
}

/** Lines typed into a few fields and sent together; what is refused is said beside its field. */
export function LinesForm<T extends string>({ of, fields, typed: given, press, columns, onSend }: Props<T>) {
  // What is typed stays, whatever arrives meanwhile; once kept, the fields show what stands.
  const [edited, setEdited] = useState<Partial<Record<T, string>>>({});
  const typed = { ...given, ...edited };
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <form
      className={`mt-1 grid items-start gap-x-6 gap-y-2 ${columns}`}
      onSubmit={(event) => {
        event.preventDefault();
        void onSend(typed).then((p) => {
          setProblem(unlessKept(p));
          if (!p) setEdited({});
        });
      }}
    >
      {fields.map(({ name, label, hint, lines }) => {
        const mine = problem?.field === name;
        const shared = {
          id: `${of}-${name}`,
          value: typed[name],
          placeholder: hint,
          'aria-invalid': mine,
          'aria-describedby': `${of}-${name}-note`,
          onChange: (event: { target: { value: string } }) => setEdited((before) => ({ ...before, [name]: event.target.value })),
        };
        return (
          <div key={name} className={lines > 1 ? 'row-span-2' : ''}>
            <label htmlFor={shared.id} className="quiet block text-note">
              {label}
            </label>
            {lines > 1 ? (
              <textarea {...shared} rows={lines} className="input mono resize-none py-2 text-body" maxLength={20000} />
            ) : (
              <input {...shared} className="input mono" maxLength={120} autoComplete="off" />
            )}
            <p id={`${of}-${name}-note`} role={mine ? 'alert' : undefined} className="text-note text-copper">
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
          {press}
        </button>
        {problem && !fields.some(({ name }) => name === problem.field) && (
          <p role="alert" className="text-copper">
            {problem.detail}
          </p>
        )}
      </div>
    </form>
  );
}
