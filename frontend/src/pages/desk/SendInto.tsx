import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { Link } from 'react-router';
import { answer, api, jobKey, problemOf, useCards, type Schemas } from '../../api/client';
import { useWho } from '../../ui/who';
import type { Given } from './api';

type Send = Schemas['SendShown'];

const PLACES: Record<Send['place'], { words: string; stage: string }> = {
  step: { words: 'a wanted speed', stage: 'aim' },
  air: { words: 'what is known of the air', stage: 'aim' },
  fan: { words: 'what is known of the fan', stage: 'measure' },
  setting: { words: 'parts of the design', stage: 'size' },
  hold: { words: 'what the fan holds', stage: 'hold' },
};

/** What a card worked out, put into a job: which value, which job, then where it went. */
export function SendInto({ card, given, sends }: { card: string; given: Given; sends: readonly Send[] }) {
  const [open, setOpen] = useState(false);
  if (sends.length === 0) return null;
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="link-button">send into a job…</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content className="fixed left-1/2 top-1/2 z-20 max-h-[92vh] w-[620px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 overflow-auto border border-ink bg-paper p-6">
          <Dialog.Title className="heading mb-1 text-title">Send into a job</Dialog.Title>
          <Dialog.Description className="quiet mb-3">It goes in as if it were typed there, and can be undone there.</Dialog.Description>
          {open && <Sending card={card} given={given} sends={sends} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Sending({ card, given, sends }: { card: string; given: Given; sends: readonly Send[] }) {
  const [place, setPlace] = useState(sends[0]?.place ?? 'step');
  const [find, setFind] = useState('');
  const [jobId, setJobId] = useState<number | null>(null);
  const cards = useCards(null, find, 0);
  const client = useQueryClient();
  const { who } = useWho();
  const send = useMutation({
    mutationFn: async (id: number) => {
      const now = await client.fetchQuery({
        queryKey: jobKey(id),
        queryFn: () => answer(api.GET('/api/jobs/{job_id}', { params: { path: { job_id: id } } })),
      });
      return answer(api.POST('/api/desk/{card}/send', { params: { path: { card } }, body: { given, place, job_id: id, version: now.job.version, who } }));
    },
    onSuccess: (page) => {
      client.setQueryData(jobKey(page.job.id), page);
      void client.invalidateQueries({ queryKey: ['cards'] });
    },
  });
  const problem = send.error ? problemOf(send.error) : null;
  const shown = cards.data?.cards ?? [];
  const done = send.data;
  if (done)
    return (
      <div className="pt-4">
        <p role="status">
          It stands in <b>{done.fan.name}</b> as {PLACES[place].words}.
        </p>
        <div className="flex gap-3 pt-4">
          <Link to={`/jobs/${done.job.id}/${PLACES[place].stage}`} className="button button-main">
            Go there
          </Link>
          <Dialog.Close className="button">Stay on the Desk</Dialog.Close>
        </div>
      </div>
    );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (jobId !== null) send.mutate(jobId);
      }}
    >
      <fieldset className="pt-3">
        <legend className="quiet text-note">what goes</legend>
        {sends.map((s) => (
          <label key={s.place} className="row-line flex min-h-10 cursor-pointer items-center gap-3 py-1">
            <input type="radio" name="place" className="size-5 shrink-0 accent-copper" checked={s.place === place} onChange={() => setPlace(s.place)} />
            <span className="w-48 shrink-0">{PLACES[s.place].words}</span>
            <span className="mono min-w-0 text-note break-words text-copper">{s.text}</span>
          </label>
        ))}
      </fieldset>
      <fieldset className="pt-3">
        <legend className="quiet text-note">into which job</legend>
        <label className="flex items-center gap-2 pb-1">
          <span className="quiet">find</span>
          <input className="input" value={find} maxLength={200} onChange={(e) => setFind(e.target.value)} />
        </label>
        <div className="max-h-60 overflow-auto">
          {cards.isPending && <p className="quiet">Fetching the jobs…</p>}
          {cards.isError && <p role="alert">{problemOf(cards.error).detail}</p>}
          {cards.isSuccess && shown.length === 0 && <p className="quiet">No job has this word.</p>}
          {shown.map((job) => (
            <label key={job.id} className="row-line flex min-h-10 cursor-pointer items-center gap-3 hover:bg-shade">
              <input
                type="radio"
                name="job"
                className="size-5 shrink-0 accent-copper"
                checked={job.id === jobId}
                onChange={() => {
                  setJobId(job.id);
                  send.reset();
                }}
              />
              <b>{job.name}</b>
              <span className="quiet min-w-0 truncate">{job.kind_name}</span>
              <span className="quiet ml-auto truncate text-note">{job.place}</span>
            </label>
          ))}
        </div>
        {cards.data?.more_after ? <p className="quiet text-note">More jobs than these: find yours by a word.</p> : null}
      </fieldset>
      {problem && (
        <p role="alert" className="pt-2 text-copper">
          Nothing was sent: {problem.detail}
          {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
        </p>
      )}
      <div className="flex gap-3 pt-4">
        <button type="submit" className="button button-main" disabled={jobId === null || send.isPending}>
          Send it
        </button>
        <Dialog.Close className="button">Not now</Dialog.Close>
      </div>
    </form>
  );
}
