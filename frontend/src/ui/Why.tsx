import { useQuery } from '@tanstack/react-query';
import { Popover } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { answer, api, problemOf } from '../api/client';
import { useJobInHand } from '../job/context';

/** A number that explains itself: equation, the numbers in it, what is assumed and where it ends. */
export function Why({ of, children, className = '', name }: { of: string; children: ReactNode; className?: string; name?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className={`why text-left ${className}`} aria-label={name} data-why={of} onClick={(event) => event.stopPropagation()}>
        {children}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          collisionPadding={12}
          className="panel z-30 max-h-[70vh] w-[520px] max-w-[94vw] overflow-auto p-5 text-body"
          onClick={(event) => event.stopPropagation()}
        >
          {open && <Explained of={of} />}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Explained({ of }: { of: string }) {
  const { page, draft } = useJobInHand();
  const [jobId, savedAt] = [page.job.id, page.saved_at];
  const why = useQuery({
    queryKey: ['why', jobId, of, savedAt, draft],
    queryFn: ({ signal }) => answer(api.POST('/api/jobs/{job_id}/why', { params: { path: { job_id: jobId } }, body: { ...draft, of }, signal })),
  });
  if (why.isPending) return <p className="quiet">Working it out…</p>;
  if (why.isError) return <p role="alert">{problemOf(why.error).detail}</p>;
  const { title, value, equation, numbers, assumptions, validity, source } = why.data;
  return (
    <div className="space-y-2">
      <h3 className="heading">{title}</h3>
      <p className="mono text-title">{value}</p>
      <p className="mono text-copper">{equation}</p>
      <ul className="space-y-0.5">
        {numbers.map((n) => (
          <li key={n} className="mono text-note">
            {n}
          </li>
        ))}
      </ul>
      {assumptions.length > 0 && (
        <details open={assumptions.length < 4}>
          <summary className="quiet min-h-8 cursor-pointer py-1">taken for granted ({assumptions.length})</summary>
          <ul className="list-disc space-y-0.5 pl-5">
            {assumptions.map((a) => (
              <li key={a}>{a}</li>
            ))}
          </ul>
        </details>
      )}
      <p>
        <span className="quiet">holds where: </span>
        {validity}
      </p>
      <p>
        <span className="quiet">from: </span>
        {source}
      </p>
    </div>
  );
}
