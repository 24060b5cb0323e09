import { useState } from 'react';
import { api, problemOf, useSave, type JobPageData, type Problem, type Schemas } from '../../api/client';
import { useTyped } from '../../ui/typed';
import { when } from '../../ui/when';
import { useWho } from '../../ui/who';

/** Somebody answers for a refused method: who and why is kept and goes into the report. */
export function AnswerFor({ page, method }: { page: JobPageData; method: Schemas['Method'] }) {
  const { who, setWho } = useWho();
  const [reason, setReason, clear] = useTyped(`${page.job.id} answer ${method}`, '');
  const [open, setOpen] = useState(reason !== '');
  const [problem, setProblem] = useState<Problem | null>(null);
  const answered = page.answered.find((a) => a.method === method);
  const save = useSave(page.job.id, () =>
    api.POST('/api/jobs/{job_id}/overrides', { params: { path: { job_id: page.job.id } }, body: { method, reason, who } }),
  );
  if (answered) {
    return (
      <span className="block text-note font-semibold">
        answered for by {answered.who}, {when(answered.at)}: {answered.reason}
      </span>
    );
  }
  if (!open) {
    return (
      <button type="button" className="link-button block text-note" onClick={() => setOpen(true)}>
        answer for it all the same
      </button>
    );
  }
  return (
    <form
      className="mt-1 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(undefined, { onSuccess: clear, onError: (error) => setProblem(problemOf(error)) });
      }}
    >
      <label className="block min-w-48 flex-1">
        <span className="quiet block text-note">why it is right here</span>
        <input className="input" value={reason} maxLength={2000} onChange={(e) => setReason(e.target.value)} />
      </label>
      <label className="block w-28">
        <span className="quiet block text-note">who answers for it</span>
        <input className="input" value={who} maxLength={120} onChange={(e) => setWho(e.target.value)} />
      </label>
      <button type="submit" className="button" disabled={save.isPending}>
        Answer for it
      </button>
      {problem && (
        <p role="alert" className="w-full text-note text-copper">
          {problem.detail} <span className="quiet">— {problem.allowed}</span>
        </p>
      )}
    </form>
  );
}
