import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { answer, api, problemOf, useInstruments, type Problem, type Schemas } from '../../api/client';
import { useTyped } from '../../ui/typed';

type Meter = Schemas['InstrumentShown'];
type Range = Schemas['RangeEdit'];
type Edit = Required<Pick<Schemas['InstrumentEdit'], 'name' | 'true_rms' | 'ranges'>>;

const KEY = 'fenwit-instrument';
const FUNCTIONS = ['voltage', 'current', 'resistance', 'capacitance', 'power', 'speed', 'frequency', 'temperature'] as const;
const NEW: Edit = { name: '', true_rms: true, ranges: [{ quantity: 'voltage', up_to: '600V', percent: '0.8', digits: '3', resolution: '0.1V' }] };

/** Which meter is in hand, kept on this device; null: an ordinary one. */
export function useMeter(): [number | null, (id: number | null) => void] {
  const meters = useInstruments();
  const [id, setId] = useState<number | null>(() => Number(localStorage.getItem(KEY)) || null);
  const there = id !== null && (meters.data?.some((m) => m.id === id) ?? true) ? id : null;
  return [
    there,
    (next) => {
      if (next === null) localStorage.removeItem(KEY);
      else localStorage.setItem(KEY, String(next));
      setId(next);
    },
  ];
}

export function MeterChoice({ meter, onPick }: { meter: number | null; onPick: (id: number | null) => void }) {
  const meters = useInstruments();
  return (
    <div className="mb-1 flex items-center gap-3 text-body">
      <label className="flex items-center gap-2">
        <span className="quiet whitespace-nowrap">read with</span>
        <select className="input w-auto! max-w-56" value={meter ?? ''} onChange={(e) => onPick(e.target.value ? Number(e.target.value) : null)}>
          <option value="">an ordinary meter</option>
          {meters.data?.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </select>
      </label>
      <Register meters={meters.data ?? []} />
    </div>
  );
}

/** The register: per cent of reading and digits in each range, as the data sheet has them. */
function Register({ meters }: { meters: readonly Meter[] }) {
  const [at, setAt] = useState<Meter | null>(null);
  const [draft, setDraft, clear] = useTyped<Edit>('instrument', NEW);
  const [problem, setProblem] = useState<Problem | null>(null);
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (gone: boolean) =>
      answer<Meter[]>(
        at
          ? api.PUT('/api/instruments/{instrument_id}', { params: { path: { instrument_id: at.id } }, body: { ...draft, version: at.version, gone } })
          : api.POST('/api/instruments', { body: { ...draft, version: 0, gone: false } }),
      ),
    onSuccess: (list) => {
      client.setQueryData(['instruments'], list);
      pick(null);
      clear();
    },
    onError: (error) => setProblem(problemOf(error)),
  });

  function pick(m: Meter | null) {
    setAt(m);
    setDraft(m ? { name: m.name, true_rms: m.true_rms, ranges: m.ranges } : NEW);
    setProblem(null);
  }

  const set = (i: number, change: Partial<Range>) => setDraft({ ...draft, ranges: draft.ranges.map((r, j) => (i === j ? { ...r, ...change } : r)) });
  return (
    <Dialog.Root onOpenChange={(open) => open && at !== null && pick(null)}>
      <Dialog.Trigger className="link-button">instruments</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-ink/30" />
        <Dialog.Content
          className="panel fixed top-1/2 left-1/2 z-30 max-h-[90vh] w-[720px] max-w-[96vw] -translate-x-1/2 -translate-y-1/2 overflow-auto p-5"
          aria-describedby={undefined}
        >
          <Dialog.Title className="heading">Instruments, and what their data sheets let them miss</Dialog.Title>
          <ul className="my-2">
            {meters.map((m) => (
              <li key={m.id} className="row-line flex items-center gap-4">
                <button type="button" className={`link-button ${at?.id === m.id ? 'font-bold text-copper' : ''}`} onClick={() => pick(m)}>
                  {m.name}
                </button>
                <span className="quiet text-body">{m.text}</span>
              </li>
            ))}
          </ul>
          <form
            onSubmit={(event) => {
              event.preventDefault();
              save.mutate(false);
            }}
          >
            <div className="flex items-end gap-5">
              <label className="block flex-1">
                <span className="quiet block text-note">{at ? 'name' : 'a new instrument'}</span>
                <input
                  className="input"
                  value={draft.name}
                  maxLength={120}
                  placeholder="bench meter"
                  aria-invalid={problem?.field === 'name'}
                  onChange={(e) => setDraft({ ...draft, name: e.target.value })}
                />
              </label>
              <label className="flex min-h-10 items-center gap-2">
                <input type="checkbox" className="size-5" checked={draft.true_rms} onChange={(e) => setDraft({ ...draft, true_rms: e.target.checked })} />
                true rms
              </label>
            </div>
            <table className="mt-2 w-full">
              <thead className="quiet text-left text-note">
                <tr>
                  <th className="font-normal">function</th>
                  <th className="font-normal">range up to</th>
                  <th className="font-normal">% of reading</th>
                  <th className="font-normal">+ digits</th>
                  <th className="font-normal">one digit is</th>
                  <th aria-label="take out" />
                </tr>
              </thead>
              <tbody>
                {draft.ranges.map((r, i) => (
                  <tr key={i}>
                    <td className="pr-3">
                      <select
                        className="input"
                        aria-label={`function, range ${i + 1}`}
                        value={r.quantity}
                        onChange={(e) => set(i, { quantity: e.target.value })}
                      >
                        {FUNCTIONS.map((f) => (
                          <option key={f}>{f}</option>
                        ))}
                      </select>
                    </td>
                    {(['up_to', 'percent', 'digits', 'resolution'] as const).map((key) => (
                      <td key={key} className="pr-3">
                        <input
                          className="input mono"
                          aria-label={`${key.replace('_', ' ')}, range ${i + 1}`}
                          aria-invalid={problem?.field === `ranges[${i}].${key}`}
                          value={r[key] ?? ''}
                          onChange={(e) => set(i, { [key]: e.target.value })}
                        />
                      </td>
                    ))}
                    <td>
                      <button
                        type="button"
                        className="link-button"
                        aria-label={`take range ${i + 1} out`}
                        onClick={() => setDraft({ ...draft, ranges: draft.ranges.filter((_, j) => j !== i) })}
                      >
                        take out
                      </button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <button
              type="button"
              className="link-button"
              onClick={() => setDraft({ ...draft, ranges: [...draft.ranges, { quantity: 'current', up_to: '', percent: '', digits: '0', resolution: '' }] })}
            >
              one more range
            </button>
            {problem && (
              <p role="alert" className="text-copper">
                {problem.detail}
                {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
              </p>
            )}
            <div className="mt-3 flex gap-3">
              <button type="submit" className="button button-main" disabled={save.isPending}>
                {at ? 'Keep it' : 'Enter it'}
              </button>
              {at && (
                <button type="button" className="button" disabled={save.isPending} onClick={() => save.mutate(true)}>
                  Put it away
                </button>
              )}
              <Dialog.Close className="button ml-auto">Close</Dialog.Close>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
