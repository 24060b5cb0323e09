import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useEffect, useRef, useState, type FormEvent } from 'react';
import { Link, useNavigate } from 'react-router';
import { answer, api, problemOf, useClasses, useShelf, type Problem, type Schemas } from '../api/client';
import { Choice } from '../ui/Choice';
import { ImportFile } from '../ui/ImportFile';
import { Keys } from '../ui/Keys';
import { useTheme } from '../ui/theme';
import { useTyped } from '../ui/typed';
import { useKeys } from '../ui/useKeys';
import { useWho } from '../ui/who';

type Part = Schemas['PartShown'];
type Edit = Required<Schemas['PartEdit']>;

const EMPTY: Edit = {
  version: 0,
  part_class: 'x2-film',
  nominal: '',
  measured: '',
  tolerance: '',
  rating: '',
  count: '1',
  place: '',
  note: '',
  gone: false,
};

const DUTIES: [string, string][] = [
  ['capacitor', 'Capacitors'],
  ['resistor', 'Resistors'],
  ['fuse', 'Fuses'],
  ['switch', 'Switches'],
];

/** The parts at hand: what designs are made from before anything is bought. */
export default function ShelfPage() {
  const shelf = useShelf();
  const navigate = useNavigate();
  const client = useQueryClient();
  const { who } = useWho();
  const [find, setFind] = useState('');
  const [open, setOpen] = useState<{ id: number | null; edit: Edit } | null>(null);
  const [importing, setImporting] = useState(false);
  const [keys, setKeys] = useState(false);
  const [, turnTheme] = useTheme();
  const findRef = useRef<HTMLInputElement>(null);
  const back = useMutation({
    mutationFn: (way: 'undo' | 'redo') =>
      answer(way === 'undo' ? api.POST('/api/shelf/undo', { body: { who } }) : api.POST('/api/shelf/redo', { body: { who } })),
    onSuccess: (page) => client.setQueryData(['shelf'], page),
  });
  const { mutate: step } = back;
  const history = shelf.data?.history ?? { undo: '', redo: '' };
  useEffect(() => {
    document.title = 'Shelf · fenwit';
  }, []);
  useKeys('shelf', {
    new: () => setOpen({ id: null, edit: EMPTY }),
    find: () => findRef.current?.focus(),
    bench: () => void navigate('/'),
    desk: () => void navigate('/desk'),
    theme: turnTheme,
    undo: () => step('undo'),
    redo: () => step('redo'),
    keys: () => setKeys(true),
  });
  const all = shelf.data?.parts ?? [];
  const words = find.toLowerCase().split(/\s+/);
  const shown = all.filter((p) =>
    words.every((w) => [p.class_name, p.nominal, p.measured, p.place, p.note, ...p.aside_for].join(' ').toLowerCase().includes(w)),
  );
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-[54px] shrink-0 items-center gap-8 border-b border-rule px-5 max-[900px]:gap-4">
        <Link to="/" className="mono text-title font-bold text-copper" aria-label="fenwit, to the Bench">
          fenwit
        </Link>
        <Link to="/" className="link-button inline-flex items-center">
          Bench
        </Link>
        <Link to="/desk" className="link-button inline-flex items-center">
          Desk
        </Link>
        <h1 className="text-lead font-bold">Shelf</h1>
        <div className="ml-auto flex items-center gap-5 text-body max-[900px]:gap-3">
          <button
            type="button"
            className="link-button disabled:text-muted disabled:no-underline"
            disabled={!history.undo}
            title={`undo: ${history.undo}`}
            onClick={() => step('undo')}
          >
            undo
          </button>
          <button
            type="button"
            className="link-button disabled:text-muted disabled:no-underline"
            disabled={!history.redo}
            title={`redo: ${history.redo}`}
            onClick={() => step('redo')}
          >
            redo
          </button>
          <a className="link-button inline-flex items-center" href="/api/shelf/parts.csv">
            as CSV
          </a>
          <button type="button" className="link-button" onClick={() => setImporting(true)}>
            from CSV
          </button>
          <button type="button" className="link-button quiet" onClick={() => setKeys(true)}>
            <span className="mono">?</span> keys
          </button>
        </div>
        <button type="button" className="button" onClick={() => setOpen({ id: null, edit: EMPTY })}>
          New part <span className="mono ml-2 font-normal">n</span>
        </button>
      </header>
      <main className="min-h-0 flex-1 overflow-auto px-8 py-3 max-[900px]:px-4">
        <label className="mb-1 flex items-center justify-end gap-2">
          <span className="quiet">find</span>
          <input ref={findRef} className="input w-56!" value={find} onChange={(e) => setFind(e.target.value)} />
        </label>
        {back.error && (
          <p role="alert" className="text-copper">
            {problemOf(back.error).detail}
          </p>
        )}
        {shelf.isPending && <p className="quiet">Fetching the shelf…</p>}
        {shelf.isError && <p role="alert">{problemOf(shelf.error).detail}</p>}
        {shelf.isSuccess && all.length === 0 && (
          <div className="max-w-md pt-10">
            <p className="heading mb-2">The shelf is empty.</p>
            <p className="quiet mb-4">Put in what lies in the drawers, with its measured value where there is one: designs take it first.</p>
            <button type="button" className="button button-main" onClick={() => setOpen({ id: null, edit: EMPTY })}>
              New part
            </button>
          </div>
        )}
        {shelf.isSuccess && all.length > 0 && shown.length === 0 && <p className="quiet">Nothing matches.</p>}
        {shown.length > 0 && (
          <table className="w-full text-lead">
            <thead className="quiet text-left text-note">
              <tr>
                <th className="font-normal">value</th>
                <th className="font-normal">measured</th>
                <th className="font-normal">class</th>
                <th className="text-right font-normal">tolerance</th>
                <th className="text-right font-normal">rating</th>
                <th className="text-right font-normal">pieces</th>
                <th className="pl-8 font-normal">place</th>
                <th className="font-normal">put aside</th>
                <th className="font-normal">note</th>
              </tr>
            </thead>
            {DUTIES.map(([duty, name]) => {
              const rows = shown.filter((p) => p.duty === duty);
              if (rows.length === 0) return null;
              return (
                <tbody key={duty}>
                  <tr>
                    <th colSpan={9} scope="rowgroup" className="heading border-b border-ink pt-3 text-left">
                      {name}
                    </th>
                  </tr>
                  {rows.map((p) => (
                    <tr key={p.id} className="row-line">
                      <td>
                        <button
                          type="button"
                          className="mono min-h-10 min-w-24 text-left text-lead font-bold underline decoration-muted decoration-dotted underline-offset-4"
                          aria-label={`${p.class_name} ${p.nominal}, edit`}
                          onClick={() => setOpen({ id: p.id, edit: editOf(p) })}
                        >
                          {p.nominal}
                          {p.duty === 'switch' && ' positions'}
                        </button>
                      </td>
                      <td className="mono">{p.measured || <span className="quiet">–</span>}</td>
                      <td>
                        {p.class_name}
                        {p.refused && <span className="block text-note text-copper">△ not in series with mains: {p.refused.split(':')[0]}</span>}
                      </td>
                      <td className="mono text-right">{p.tolerance && `± ${p.tolerance}`}</td>
                      <td className="mono text-right">
                        {p.rating}
                        {p.duty === 'capacitor' && !p.refused && ' AC'}
                      </td>
                      <td className="mono text-right">{p.count}</td>
                      <td className="pl-8">{p.place}</td>
                      <td className="text-body">{p.aside_for.join(', ') || <span className="quiet">–</span>}</td>
                      <td className="quiet text-body">{p.note}</td>
                    </tr>
                  ))}
                </tbody>
              );
            })}
          </table>
        )}
      </main>
      <PartDialog open={open} onClose={() => setOpen(null)} />
      <Dialog.Root open={importing} onOpenChange={setImporting}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
          <Dialog.Content className="panel fixed left-1/2 top-1/2 z-20 w-[640px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 p-6">
            <Dialog.Title className="sr-only">Parts from a file</Dialog.Title>
            <Dialog.Description className="sr-only">A CSV file is shown row by row before anything changes</Dialog.Description>
            <ImportFile
              title="Parts from a file"
              hint="CSV: class; nominal; measured; tolerance (%); rating; count; place; note. Commas or semicolons, decimal commas too."
              url="/api/shelf/import"
              accept=".csv,.txt,text/csv"
              onTaken={() => client.invalidateQueries({ queryKey: ['shelf'] })}
            />
            <Dialog.Close className="button mt-4">Close</Dialog.Close>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
      <Keys open={keys} onOpenChange={setKeys} />
    </div>
  );
}

const editOf = (p: Part): Edit => ({
  version: p.version,
  part_class: p.part_class,
  nominal: p.nominal,
  measured: p.measured,
  tolerance: p.tolerance,
  rating: p.rating,
  count: String(p.count),
  place: p.place,
  note: p.note,
  gone: false,
});

/** One part, typed as it is printed. */
function PartDialog({ open, onClose }: { open: { id: number | null; edit: Edit } | null; onClose: () => void }) {
  return (
    <Dialog.Root open={open !== null} onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content className="panel fixed left-1/2 top-1/2 z-20 w-[600px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 p-6">
          {open && <PartForm key={`${open.id ?? 'new'} ${open.edit.version}`} id={open.id} start={open.edit} onClose={onClose} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function PartForm({ id, start, onClose }: { id: number | null; start: Edit; onClose: () => void }) {
  const classes = useClasses();
  const client = useQueryClient();
  const [edit, setEdit, clear] = useTyped(`part ${id ?? 'new'} ${start.version}`, start);
  const [problem, setProblem] = useState<Problem | null>(null);
  const save = useMutation({
    mutationFn: (body: Edit) =>
      answer(id === null ? api.POST('/api/shelf/parts', { body }) : api.PUT('/api/shelf/parts/{part_id}', { params: { path: { part_id: id } }, body })),
    onSuccess: (page) => {
      client.setQueryData(['shelf'], page);
      void client.invalidateQueries({ queryKey: ['of-shelf'] });
      clear();
      onClose();
    },
    onError: (error) => setProblem(problemOf(error)),
  });
  const chosen = classes.data?.find((c) => c.key === edit.part_class);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(edit);
  };
  const stale = problem?.type === 'stale' ? (problem.current as (Record<string, unknown> & { version: number }) | null) : null;
  const field = (name: 'nominal' | 'measured' | 'tolerance' | 'rating' | 'count' | 'place' | 'note', label: string, hint: string) => (
    <div>
      <label htmlFor={`part-${name}`} className="quiet block text-note">
        {label}
      </label>
      <input
        id={`part-${name}`}
        className={`input placeholder:text-muted/60 ${name === 'place' || name === 'note' ? '' : 'mono'}`}
        value={edit[name]}
        maxLength={name === 'place' || name === 'note' ? 120 : 40}
        placeholder={hint}
        aria-invalid={problem?.field === name}
        aria-describedby={`part-${name}-note`}
        onChange={(e) => setEdit({ ...edit, [name]: e.target.value })}
      />
      {problem?.field === name && (
        <p id={`part-${name}-note`} role="alert" className="text-note text-copper">
          {problem.detail} {problem.allowed && <span className="quiet">— {problem.allowed}</span>}
        </p>
      )}
    </div>
  );
  const capacitor = chosen?.duty === 'capacitor';
  const resistor = chosen?.duty === 'resistor';
  return (
    <form onSubmit={submit} className="space-y-3">
      <Dialog.Title className="heading text-title">{id === null ? 'New part' : 'Part on the shelf'}</Dialog.Title>
      <Dialog.Description className="sr-only">Values in bench notation, as printed on the part</Dialog.Description>
      <Choice
        label="class"
        value={edit.part_class}
        options={(classes.data ?? []).map((c) => c.key)}
        say={(key) => classes.data?.find((c) => c.key === key)?.name ?? key}
        onPick={(part_class) => setEdit({ ...edit, part_class, tolerance: '', rating: '' })}
      />
      {chosen?.refused && <p className="border-l-2 border-hazard pl-2 text-body">Never in series with the mains: {chosen.refused}</p>}
      <div className="grid grid-cols-3 gap-x-6 gap-y-2">
        {field(
          'nominal',
          chosen?.duty === 'switch' ? 'positions beside Off' : 'value, as printed',
          capacitor ? '2u7' : resistor ? '75k' : chosen?.duty === 'fuse' ? '630mA' : '4',
        )}
        {(capacitor || resistor) && field('measured', 'as measured', 'not measured')}
        {(capacitor || resistor) && field('tolerance', 'tolerance', 'as usual')}
        {field('rating', resistor ? 'watts' : capacitor ? 'rated AC volts' : 'rated volts', resistor ? '1/2 W' : 'as usual')}
        {field('count', 'pieces', '1')}
        {field('place', 'place', 'drawer 4')}
      </div>
      {field('note', 'note', '')}
      {problem && !['nominal', 'measured', 'tolerance', 'rating', 'count', 'place', 'note'].includes(problem.field ?? '') && (
        <div role="alert" className="text-copper">
          <p>{problem.detail}</p>
          {stale && (
            <p className="text-ink">
              The other window has <span className="mono">{String(stale.count)}</span> pieces in {String(stale.place) || 'no place'}.{' '}
              <button type="button" className="link-button" onClick={() => save.mutate({ ...edit, version: stale.version })}>
                keep mine
              </button>{' '}
              <button
                type="button"
                className="link-button"
                onClick={() => {
                  void client.invalidateQueries({ queryKey: ['shelf'] });
                  onClose();
                }}
              >
                take the other
              </button>
            </p>
          )}
        </div>
      )}
      <div className="flex gap-3 pt-1">
        <button type="submit" className="button button-main" disabled={save.isPending}>
          {id === null ? 'Put it on the shelf' : 'Save'}
        </button>
        <Dialog.Close className="button">Not now</Dialog.Close>
        {id !== null && (
          <button type="button" className="button ml-auto" disabled={save.isPending} onClick={() => save.mutate({ ...edit, gone: true })}>
            Take it off
          </button>
        )}
      </div>
    </form>
  );
}
