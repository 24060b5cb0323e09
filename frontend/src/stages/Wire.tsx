import { DropdownMenu, Tabs } from 'radix-ui';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { problemOf, type Problem } from '../api/client';
import { unlessKept } from '../api/save';
import { useJobInHand } from '../job/context';
import { Cautions } from '../ui/Cautions';
import { Refusal } from '../ui/Refusal';
import { useSaveWiring, useWire, type SaveWiring, type WirePage } from './wire/api';
import { Dead } from './wire/Dead';
import { Editor } from './wire/Editor';
import { Exchange } from './wire/Exchange';
import { JsonFile } from './wire/JsonFile';
import { KitForm } from './wire/KitForm';
import { Lists } from './wire/Lists';
import { Parts } from './wire/Parts';
import { TruthTable } from './wire/TruthTable';

const PARTS = ['table', 'circuit', 'parts', 'connections', 'dead', 'exchange'] as const;
type Part = (typeof PARTS)[number];
const SAY: Record<Part, string> = {
  table: 'what it does',
  circuit: 'circuit',
  parts: 'parts',
  connections: 'connections',
  dead: 'dead tests',
  exchange: 'exchange',
};

/** How it is wired: one circuit, and the table, hazards, tests and lists that are read from it. */
export default function Wire() {
  const { page } = useJobInHand();
  const [search, setSearch] = useSearchParams();
  const found = useWire(page);
  const save = useSaveWiring();
  const wire = found.data ?? null;
  if (!wire) return found.error ? <Refusal problem={problemOf(found.error)} /> : <p className="quiet">Working out the circuit…</p>;
  if (!wire.sheet) return <First wire={wire} save={save} />;
  const parts = PARTS.filter((p) => p !== 'exchange' || wire.kit);
  const part: Part = parts.find((p) => p === search.get('part')) ?? 'table';
  const ticked = wire.connections.filter((c) => c.read.text === 'yes').length;
  const odd = wire.dead.filter((d) => d.read.agreement === 'contradicts').length;
  const more: Partial<Record<Part, string>> = {
    connections: ` ${ticked} of ${wire.connections.length}`,
    dead: odd ? ` △ ${odd}` : '',
  };
  return (
    <Tabs.Root value={part} onValueChange={(p) => setSearch(p === 'table' ? {} : { part: p }, { replace: true })}>
      <div className="-mt-2 mb-2 flex flex-wrap items-center gap-x-7">
        <Tabs.List aria-label="Parts of Wire" className="flex gap-7">
          {parts.map((p) => (
            <Tabs.Trigger key={p} value={p} className="tab">
              {SAY[p]}
              {more[p] && <span className="quiet mono text-note">{more[p]}</span>}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <p className="quiet ml-auto min-w-0 truncate text-note" title={wire.title}>
          {wire.title}
        </p>
        <Files jobId={page.job.id} />
      </div>
      {found.error && <Refusal problem={problemOf(found.error)} />}
      <Tabs.Content value="table" tabIndex={-1}>
        <TruthTable wire={wire} />
      </Tabs.Content>
      <Tabs.Content value="circuit" tabIndex={-1}>
        <Editor wire={wire} save={save} />
      </Tabs.Content>
      <Tabs.Content value="parts" tabIndex={-1}>
        <Parts />
      </Tabs.Content>
      <Tabs.Content value="connections" tabIndex={-1}>
        <Cautions stage="wire" brief />
        <Lists wire={wire} />
      </Tabs.Content>
      <Tabs.Content value="dead" tabIndex={-1}>
        <Cautions stage="wire" brief />
        <Dead wire={wire} save={save} />
      </Tabs.Content>
      {wire.kit && (
        <Tabs.Content value="exchange" tabIndex={-1}>
          <KitForm kit={wire.kit} open={!wire.exchange} save={save} />
          {wire.exchange && <Exchange wire={wire} exchange={wire.exchange} save={save} />}
        </Tabs.Content>
      )}
    </Tabs.Root>
  );
}

const FILES = [
  ['drawing.svg', 'drawing, SVG'],
  ['labels.pdf', 'labels, PDF'],
  ['circuit.json', 'the circuit itself'],
  ['parts.csv', 'pick list, CSV'],
  ['truth-table.csv', 'truth table, CSV'],
  ['connections.csv', 'connections, CSV'],
  ['cables.csv', 'cable schedule, CSV'],
  ['dead-tests.csv', 'dead tests, CSV'],
] as const;

/** What of the circuit can be had as a file; all of it prints with the job. */
function Files({ jobId }: { jobId: number }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="link-button">files</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="z-20 border border-ink bg-paper py-1">
          {FILES.map(([name, words]) => (
            <DropdownMenu.Item key={name} asChild>
              <a className="flex min-h-10 items-center px-4 data-[highlighted]:bg-shade" href={`/api/jobs/${jobId}/wire/${name}`} download>
                {words}
              </a>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** Nothing is wired yet: what to begin with. */
function First({ wire, save }: { wire: WirePage; save: SaveWiring }) {
  const { frame } = useJobInHand();
  const [problem, setProblem] = useState<Problem | null>(null);
  const begin = (key: string, name: string) => void save({ template: key }, name).then((p) => setProblem(unlessKept(p)));
  const sized = frame.method !== null && frame.wiring.length > 0;
  return (
    <section aria-label="A circuit to begin with" className="max-w-[820px]">
      <h2 className="heading">What is to be wired?</h2>
      <p className="quiet pb-2">
        Every circuit begins here and is then changed by terminals and wires. What is known of the fan, its leads, ohms and volts, is filled in.
      </p>
      <Refusal problem={problem} />
      <JsonFile words="a circuit from a file:" take={(document, name) => save({ document }, name)} />
      <ul>
        {sized && (
          <li className="row-line grid grid-cols-[290px_minmax(0,1fr)] items-center gap-4 py-1 max-[720px]:grid-cols-1">
            <button type="button" className="button button-main text-left whitespace-normal!" onClick={() => begin('as-sized', 'the regulator')}>
              the regulator, as sized
            </button>
            <span className="quiet">its parts and positions, with supply and motor</span>
          </li>
        )}
        {wire.templates.map((t) => (
          <li key={t.key} className="row-line grid grid-cols-[290px_minmax(0,1fr)] items-center gap-4 py-1 max-[720px]:grid-cols-1">
            <button type="button" className="button text-left whitespace-normal!" onClick={() => begin(t.key, t.name)}>
              {t.name}
            </button>
            <span className="quiet">{t.words}</span>
          </li>
        ))}
        <li className="row-line grid grid-cols-[290px_minmax(0,1fr)] items-center gap-4 py-1 max-[720px]:grid-cols-1">
          <button
            type="button"
            className="button text-left whitespace-normal!"
            onClick={() => void save({ deed: 'add', what: 'supply', to: 'S' }, 'an empty circuit').then((p) => setProblem(unlessKept(p)))}
          >
            an empty circuit
          </button>
          <span className="quiet">a supply, and nothing on it yet</span>
        </li>
      </ul>
    </section>
  );
}
