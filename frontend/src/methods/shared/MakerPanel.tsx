import type { ReactNode } from 'react';
import { Choice } from '../../ui/Choice';

interface Props<M extends string, D> {
  label: string;
  heading: string;
  note: string | undefined;
  makers: Readonly<Record<M, string>>;
  maker: M;
  onMaker: (maker: M) => void;
  /** A first design by the maker that is looked at, where none of it is chosen; with what taking it takes, in words. */
  first: D | null;
  takes: string;
  quiet: string;
  onChoose: (design: D) => unknown;
  onTry: (design: D | null) => void;
  facts: readonly string[];
  /** Settings of what is chosen. */
  children: ReactNode;
}

/** What makes a command, and its settings: pointing at a first design tries it, a click keeps it. */
export function MakerPanel<M extends string, D>({
  label,
  heading,
  note,
  makers,
  maker,
  onMaker,
  first,
  takes,
  quiet,
  onChoose,
  onTry,
  facts,
  children,
}: Props<M, D>) {
  return (
    <section aria-label={label} className="flex min-h-0 flex-col overflow-auto text-body">
      <h2 className="heading">{heading}</h2>
      {note && <p className="text-copper">{note}</p>}
      <Choice label="made by" value={maker} options={Object.keys(makers)} say={(m) => makers[m as M]} onPick={(m) => onMaker(m as M)} />
      {first && (
        <div className="py-1">
          <button
            type="button"
            className="button"
            onPointerEnter={() => onTry(first)}
            onPointerLeave={() => onTry(null)}
            onFocus={() => onTry(first)}
            onBlur={() => onTry(null)}
            onClick={() => void onChoose(first)}
          >
            Take {takes}
          </button>
          <span className="quiet pl-3 text-note">{quiet}</span>
        </div>
      )}
      {children}
      {facts.map((f) => (
        <p key={f} className="pt-0.5 text-note first-letter:uppercase">
          {f}
        </p>
      ))}
    </section>
  );
}
