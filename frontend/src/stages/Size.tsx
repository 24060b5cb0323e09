import { Tabs } from 'radix-ui';
import { Suspense } from 'react';
import { useSearchParams } from 'react-router';
import { useEdits } from '../api/save';
import { useJobInHand } from '../job/context';
import { isSized, SIZED, viewOf } from '../methods';
import type { SizedMethod } from '../methods/seam';
import { useWho } from '../ui/who';
import { Designs } from './size/Designs';

/** By which method the steps are made, and its parts. */
export default function Size() {
  const { page, frame, onClash } = useJobInHand();
  const [search, setSearch] = useSearchParams();
  const { who } = useWho();
  const save = useEdits(page.job.id, onClash);
  const own: SizedMethod | undefined = isSized(frame.method) ? frame.method : SIZED[0];
  const asked = search.get('by');
  const by = isSized(asked) ? asked : own;
  if (!by) return null;
  if (!frame.full) {
    return <p className="quiet">A regulator can be sized once full speed is known: {frame.missing.map((m) => m.text).join(', ')}.</p>;
  }
  if (page.job.wanted_rpm.length === 0 && !page.design) return <p className="quiet">First say in Aim which speeds are wanted.</p>;
  const offered = SIZED.filter((m) => m === by || m === own || frame.sized.includes(m));
  const turn = (to: string) => {
    if (!isSized(to)) return;
    setSearch({ by: to }, { replace: true });
    // While nothing is chosen the job is aimed with what is looked at.
    if (!page.design) {
      void save({
        kind: 'job',
        method: 'PATCH',
        path: `/api/jobs/${page.job.id}`,
        body: { sizing: { method: to }, who },
        versionField: 'version',
        from: page.job.version,
        replaces: { sizing: page.job.sizing },
        what: 'The method',
        mine: viewOf(to).name,
      });
    }
  };
  const { Sizer } = viewOf(by);
  return (
    <Tabs.Root value={by} onValueChange={turn} className="flex h-full min-h-0 flex-col">
      <div className="-mt-3 flex shrink-0 items-center">
        <Tabs.List aria-label="Method" className="flex gap-7">
          {offered.map((m) => (
            <Tabs.Trigger key={m} value={m} className="tab">
              {viewOf(m).tab}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <Designs />
      </div>
      <Tabs.Content value={by} tabIndex={-1} className="min-h-0 flex-1">
        {page.design && page.design.method !== by && (
          <p className="quiet text-body">
            This job is regulated by {page.design.method_name}, revision {page.design.revision}. What is chosen here takes its place; it can be brought back.
          </p>
        )}
        <Suspense fallback={<p className="quiet">Fetching this part…</p>}>
          <Sizer key={by} />
        </Suspense>
      </Tabs.Content>
    </Tabs.Root>
  );
}
