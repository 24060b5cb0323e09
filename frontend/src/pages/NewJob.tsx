import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState, type FormEvent } from 'react';
import { useNavigate } from 'react-router';
import { answer, api, jobKey, problemOf } from '../api/client';
import { useTyped } from '../ui/typed';

const EMPTY = { name: '', place: '', wish: '', supply_voltage: '230V', supply_frequency: '50Hz' };

/** A new fan in hand: its name, where it hangs, what is wanted, and the supply. */
export function NewJob({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [job, setJob, clear] = useTyped('new job', EMPTY);
  const [control, setControl] = useState(false);
  const [wireOnly, setWireOnly] = useState(false);
  const client = useQueryClient();
  const navigate = useNavigate();
  const add = useMutation({
    mutationFn: () => answer(api.POST('/api/jobs', { body: job })),
    onSuccess: (page) => {
      client.setQueryData(jobKey(page.job.id), page);
      void client.invalidateQueries({ queryKey: ['cards'] });
      clear();
      onOpenChange(false);
      void navigate(`/jobs/${page.job.id}/${wireOnly ? 'wire' : control ? 'inspect' : 'identify'}`);
    },
  });
  const problem = add.error ? problemOf(add.error) : null;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate();
  };
  const field = (name: keyof typeof EMPTY, label: string, hint: string, mono = false) => (
    <div>
      <label htmlFor={`new-${name}`} className="quiet block text-note">
        {label}
      </label>
      <input
        id={`new-${name}`}
        aria-describedby={`new-${name}-note`}
        className={`input ${mono ? 'mono' : ''} placeholder:text-muted/60`}
        value={job[name]}
        maxLength={name === 'wish' ? 2000 : 120}
        placeholder={hint}
        aria-invalid={problem?.field === name}
        onChange={(e) => setJob({ ...job, [name]: e.target.value })}
      />
      {problem?.field === name && (
        <p id={`new-${name}-note`} role="alert" className="text-note text-copper">
          {problem.detail}
          {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
        </p>
      )}
    </div>
  );
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-black/40" />
        <Dialog.Content className="fixed left-1/2 top-1/2 w-[520px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 border border-ink bg-paper p-6">
          <Dialog.Title className="heading mb-1 text-title">New job</Dialog.Title>
          <Dialog.Description className="quiet mb-4">One fan, and what is wanted of it.</Dialog.Description>
          <form onSubmit={submit} className="space-y-3">
            {field('name', 'fan', 'as people call it: Bunk room 3')}
            {field('place', 'place', 'where it hangs')}
            {field('wish', 'what is wanted', 'in their words')}
            <div className="grid grid-cols-2 gap-6">
              {field('supply_voltage', 'supply volts', '230V', true)}
              {field('supply_frequency', 'supply hertz, or DC', '50Hz or DC', true)}
            </div>
            <label className="flex min-h-10 cursor-pointer items-center gap-2">
              <input type="checkbox" className="size-5 accent-copper" checked={control} onChange={(e) => setControl(e.target.checked)} />
              an old control comes in with it, to be inspected
            </label>
            <label className="flex min-h-10 cursor-pointer items-center gap-2">
              <input type="checkbox" className="size-5 accent-copper" checked={wireOnly} onChange={(e) => setWireOnly(e.target.checked)} />
              it is only to be wired: relays, timer, thermostat, a motor exchanged
            </label>
            {problem && !(problem.field && problem.field in EMPTY) && (
              <p role="alert" className="text-copper">
                {problem.detail}
              </p>
            )}
            <div className="flex gap-3 pt-2">
              <button type="submit" className="button button-main" disabled={add.isPending}>
                Take it in hand
              </button>
              <Dialog.Close className="button">Not now</Dialog.Close>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
