import type { Schemas } from '../../api/client';

/** What a technician would change; a ring where nothing is to be changed. */
export function AdviceList({ advice }: { advice: readonly Schemas['Advice'][] }) {
  return (
    <ul className="space-y-0.5" aria-label="What to change">
      {advice.map((a) => (
        <li key={a.words} className={a.kind === 'well' ? '' : 'text-copper'}>
          <span aria-hidden="true">{a.kind === 'well' ? '◉ ' : '△ '}</span>
          <span className="inline-block first-letter:uppercase">{a.words}</span>
        </li>
      ))}
    </ul>
  );
}

/** Figures in two columns. */
export function Figures({ figures }: { figures: readonly Schemas['Figure'][] }) {
  return (
    <dl className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-4 text-body">
      {figures.map((f) => (
        <div key={f.name} className="row-line col-span-2 grid grid-cols-subgrid items-baseline py-0.5">
          <dt className="quiet">{f.name}</dt>
          <dd className={`mono text-right ${f.good === false ? 'text-copper' : ''}`}>
            {f.good === false && <span aria-hidden="true">△ </span>}
            {f.text}
          </dd>
        </div>
      ))}
    </dl>
  );
}
