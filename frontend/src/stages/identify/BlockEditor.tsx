import { useState } from 'react';
import { useClasses, type Problem, type Schemas } from '../../api/client';
import { unlessKept } from '../../api/save';
import { walkBeforeSending } from '../../job/spot';
import { useTyped } from '../../ui/typed';

type Section = Schemas['SectionEdit'];
type Step = Schemas['BlockStepEdit'];
type Block = Schemas['BlockEdit'];

const NEW_SECTION: Section = { name: '', lead_a: '', lead_b: '', rated: '', part_class: 'motor-run', tolerance: '' };

const FIRST_BLOCK: Block = {
  sections: [{ ...NEW_SECTION, name: 'run', lead_a: 'm', lead_b: 'x' }],
  motor_lead: 'm',
  auxiliary_lead: 'x',
  steps: [{ name: '1', line: '', joined: '' }],
};

interface Props {
  jobId: number;
  block: Block | null;
  onKeep: (block: Block) => Promise<Problem | null>;
  onDone: () => void;
}

/** Sections between leads, and which leads the switch feeds at each step: kept as a whole once it can be solved. */
export function BlockEditor({ jobId, block, onKeep, onDone }: Props) {
  const [draft, setDraft, clear] = useTyped<Block>(`${jobId} block`, block ?? FIRST_BLOCK);
  const [problem, setProblem] = useState<Problem | null>(null);
  const steps = draft.steps ?? [];
  const set = (change: Partial<Block>) => setDraft({ ...draft, ...change });
  return (
    <form
      aria-label="Capacitor block"
      onSubmit={(event) => {
        event.preventDefault();
        void onKeep(draft).then((p) => {
          const refused = unlessKept(p);
          setProblem(refused);
          if (!refused) {
            clear();
            onDone();
          }
        });
      }}
    >
      <SectionRows sections={draft.sections} onChange={(sections) => set({ sections })} problem={problem} path="sections" />
      <div className="mt-2 flex flex-wrap gap-4">
        <Field label="motor's lead" value={draft.motor_lead} onChange={(motor_lead) => set({ motor_lead })} wide="w-24" />
        <Field label="auxiliary's lead" value={draft.auxiliary_lead ?? ''} onChange={(auxiliary_lead) => set({ auxiliary_lead })} wide="w-28" hint="none" />
      </div>
      <h3 className="quiet mt-2 text-note">each step: its name, the leads that the switch feeds (none: the motor directly), the leads that it joins</h3>
      <div className="flex flex-wrap gap-x-8">
        {steps.map((s, i) => (
          <div key={i} className="flex items-end gap-2">
            <Field label={`step ${i + 1}`} value={s.name} hint="low" wide="w-20" onChange={(name) => set({ steps: changed(steps, i, { name }) })} />
            <Field label="fed" value={s.line ?? ''} hint="1+2" wide="w-14" onChange={(line) => set({ steps: changed(steps, i, { line }) })} />
            <Field label="joined" value={s.joined ?? ''} hint="2=3" wide="w-14" onChange={(joined) => set({ steps: changed(steps, i, { joined }) })} />
          </div>
        ))}
        {steps.length < 8 && (
          <button
            type="button"
            className="link-button self-end"
            onClick={() => set({ steps: [...steps, { name: String(steps.length + 1), line: '', joined: '' }] })}
          >
            one more step
          </button>
        )}
        {steps.length > 1 && (
          <button type="button" className="link-button self-end" onClick={() => set({ steps: steps.slice(0, -1) })}>
            one less
          </button>
        )}
      </div>
      {problem && (
        <p role="alert" className="text-note text-copper">
          {problem.detail}
          {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
        </p>
      )}
      <div className="mt-3 flex gap-3">
        <button type="submit" className="button button-main">
          Keep the block
        </button>
        <button
          type="button"
          className="button"
          onClick={() => {
            clear();
            onDone();
          }}
        >
          Leave it
        </button>
      </div>
    </form>
  );
}

const changed = (steps: readonly Step[], at: number, change: Partial<Step>): Step[] => steps.map((s, i) => (i === at ? { ...s, ...change } : s));

/** Sections as rows: name, the two leads, what is printed. */
export function SectionRows({
  sections,
  onChange,
  problem,
  path,
}: {
  sections: readonly Section[];
  onChange: (sections: Section[]) => void;
  problem: Problem | null;
  path: string;
}) {
  const classes = useClasses();
  const set = (at: number, change: Partial<Section>) => onChange(sections.map((s, i) => (i === at ? { ...s, ...change } : s)));
  return (
    <>
      <table className="w-full">
        <thead className="quiet text-left text-note">
          <tr>
            <th className="w-24 font-normal">section</th>
            <th className="w-14 font-normal">lead</th>
            <th className="w-14 font-normal">lead</th>
            <th className="w-24 font-normal">printed</th>
            <th className="font-normal">class</th>
            <th className="w-16 font-normal">± %</th>
            <th className="w-20" aria-label="take out" />
          </tr>
        </thead>
        <tbody>
          {sections.map((s, i) => (
            <tr key={i}>
              {(['name', 'lead_a', 'lead_b', 'rated'] as const).map((key) => (
                <td key={key} className="pr-2">
                  <input
                    className={`input ${key === 'rated' ? 'mono' : ''}`}
                    aria-label={`${LABEL[key]}, section ${i + 1}`}
                    aria-invalid={problem?.field === `${path}[${i}].${key}` || problem?.field === `${s.name} rated`}
                    value={s[key]}
                    maxLength={key === 'name' ? 12 : 40}
                    placeholder={key === 'rated' ? '2u5' : ''}
                    onKeyDown={walkBeforeSending}
                    onChange={(e) => set(i, { [key]: e.target.value })}
                  />
                </td>
              ))}
              <td className="pr-2">
                <select className="input" aria-label={`class, section ${i + 1}`} value={s.part_class} onChange={(e) => set(i, { part_class: e.target.value })}>
                  {(classes.data ?? [])
                    .filter((c) => c.duty === 'capacitor')
                    .map((c) => (
                      <option key={c.key} value={c.key}>
                        {c.name}
                      </option>
                    ))}
                </select>
              </td>
              <td className="pr-2">
                <input
                  className="input mono"
                  aria-label={`tolerance, section ${i + 1}`}
                  value={s.tolerance ?? ''}
                  placeholder="usual"
                  onKeyDown={walkBeforeSending}
                  onChange={(e) => set(i, { tolerance: e.target.value })}
                />
              </td>
              <td>
                <button
                  type="button"
                  className="link-button"
                  aria-label={`take section ${i + 1} out`}
                  onClick={() => onChange(sections.filter((_, j) => j !== i))}
                >
                  take out
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {sections.length < 6 && (
        <button
          type="button"
          className="link-button"
          onClick={() => onChange([...sections, { ...NEW_SECTION, name: String.fromCharCode(65 + sections.length) }])}
        >
          one more section
        </button>
      )}
    </>
  );
}

const LABEL = { name: 'name', lead_a: 'first lead', lead_b: 'second lead', rated: 'printed microfarads' } as const;

function Field({ label, value, onChange, hint, wide }: { label: string; value: string; onChange: (value: string) => void; hint?: string; wide: string }) {
  return (
    <label className={`block ${wide}`}>
      <span className="quiet block text-note">{label}</span>
      <input className="input" value={value} maxLength={40} placeholder={hint} onKeyDown={walkBeforeSending} onChange={(e) => onChange(e.target.value)} />
    </label>
  );
}
