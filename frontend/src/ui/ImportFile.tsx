import { useRef, useState } from 'react';
import { isProblem, OFFLINE, type Problem, type Schemas } from '../api/client';

type Preview = Schemas['ImportPreview'];

interface Props {
  title: string;
  hint: string;
  url: string;
  accept: string;
  onTaken: () => void | Promise<void>;
}

/** A file is shown row by row with what would be taken and what would not, before anything changes. */
export function ImportFile({ title, hint, url, accept, onTaken }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);

  async function ask(chosen: File, take: boolean) {
    setBusy(true);
    setProblem(null);
    try {
      const response = await fetch(`${url}?take=${String(take)}`, { method: 'POST', body: chosen, headers: { 'Content-Type': 'text/csv' } });
      const body: unknown = await response.json();
      if (!response.ok) setProblem(isProblem(body) ? body : OFFLINE);
      else {
        setPreview(body as Preview);
        if (take) await onTaken();
      }
    } catch {
      setProblem({ ...OFFLINE, detail: 'Fenwit does not answer. Nothing was taken; the file is as it was.' });
    } finally {
      setBusy(false);
    }
  }

  return (
    <section aria-label={title}>
      <h2 className="heading">{title}</h2>
      <p className="quiet text-note">{hint}</p>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={`${title}: choose a file`}
        className="mt-1 block w-full cursor-pointer text-body file:mr-3 file:min-h-10 file:cursor-pointer file:border file:border-ink file:bg-transparent file:px-4 file:font-semibold"
        onChange={(event) => {
          const chosen = event.target.files?.[0] ?? null;
          setFile(chosen);
          setPreview(null);
          setProblem(null);
          if (chosen) void ask(chosen, false);
        }}
      />
      {busy && <p className="quiet">Reading the file…</p>}
      {problem && (
        <p role="alert" className="text-copper">
          {problem.detail} {problem.allowed && <span className="quiet">— {problem.allowed}</span>}
        </p>
      )}
      {preview && (
        <div className="mt-1 text-body">
          <p role="status" className="font-semibold">
            {preview.done ? `${preview.good} taken` : `${preview.good} can be taken`}
            {preview.bad > 0 && <span className="text-copper">, {preview.bad} cannot</span>}
          </p>
          <ul className="max-h-40 overflow-auto">
            {preview.rows.map((r, i) => (
              <li key={i} className="row-line grid grid-cols-[56px_1fr] gap-2 py-0.5">
                <span className="quiet mono">line {r.line}</span>
                <span>
                  <span className="mono">{r.text}</span> {r.problem && <span className="text-copper">△ {r.problem}</span>}
                </span>
              </li>
            ))}
          </ul>
          {!preview.done && preview.good > 0 && file && (
            <button
              type="button"
              className="button mt-2"
              disabled={busy}
              onClick={() =>
                void ask(file, true).then(() => {
                  if (input.current) input.current.value = '';
                })
              }
            >
              Take {preview.good === 1 ? 'it' : `the ${preview.good}`}
            </button>
          )}
        </div>
      )}
    </section>
  );
}
