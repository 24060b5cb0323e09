import { Popover } from 'radix-ui';
import { api, problemOf, useSave, type Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { when } from '../../ui/when';
import { useWho } from '../../ui/who';

type Line = Schemas['DesignLine'];

/** Every design this job has had: looked at on the staff and the path, or brought back with its readings. */
export function Designs() {
  const { page, setDraft } = useJobInHand();
  const { who } = useWho();
  const jobId = page.job.id;
  const again = useSave(jobId, (line: Line) =>
    api.POST('/api/jobs/{job_id}/designs/{design_id}/again', {
      params: { path: { job_id: jobId, design_id: line.id } },
      body: { after_revision: page.last_revision, who },
    }),
  );
  if (page.designs.length === 0) return null;
  const look = (line: Line) => {
    if (!line.stands) setDraft({ design: line.design });
  };
  return (
    <Popover.Root onOpenChange={(open) => !open && setDraft(null)}>
      <Popover.Trigger className="link-button ml-auto">{page.designs.length === 1 ? '1 design' : `${page.designs.length} designs`} of this job</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="bottom" align="end" className="z-20 max-h-[60vh] w-[560px] max-w-[94vw] overflow-auto border border-ink bg-paper p-4">
          <h2 className="heading">Designs of this job</h2>
          <p className="quiet text-note">Pointing at one, or tabbing to it, shows it on the staff and the path. One brought back has its readings again.</p>
          <ul className="mt-1">
            {page.designs.map((line) => (
              <li
                key={line.id}
                className="row-line grid grid-cols-[minmax(0,1fr)_auto] items-center gap-4 py-1.5"
                onPointerEnter={() => look(line)}
                onPointerLeave={() => setDraft(null)}
              >
                <span>
                  <span className="font-semibold">{line.name || line.method_name}</span>
                  <span className="quiet text-note">
                    {' '}
                    · revision {line.revision}, {line.who ? `${line.who}, ` : ''}
                    {when(line.made_at)}
                    {line.proofs > 0 && `, ${line.proofs} readings`}
                  </span>
                  <span className="block text-body">{line.text}</span>
                </span>
                {line.stands ? (
                  <span className="text-body">● stands</span>
                ) : (
                  <button
                    type="button"
                    className="button"
                    disabled={again.isPending}
                    onFocus={() => look(line)}
                    onBlur={() => setDraft(null)}
                    onClick={() => again.mutate(line, { onSuccess: () => setDraft(null) })}
                    aria-label={`bring back revision ${line.revision}`}
                  >
                    bring back
                  </button>
                )}
              </li>
            ))}
          </ul>
          {again.error && (
            <p role="alert" className="mt-1 text-copper">
              {problemOf(again.error).detail}
            </p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
