import { useState } from 'react';
import type { Problem } from '../../api/client';
import { unlessKept } from '../../api/save';
import { Refusal } from '../../ui/Refusal';

const NO_JSON: Problem = { type: 'input', title: 'Not to be read', status: 0, detail: 'That file cannot be read.', allowed: 'JSON, up to 400 kB' };
const MOST_BYTES = 400_000;

interface Props {
  /** What the file holds. */
  words: string;
  /** Keeps what it says; resolves to the problem, or null. */
  take: (document: Record<string, unknown>, name: string) => Promise<Problem | null>;
}

/** Something out of a file, whole or not at all. */
export function JsonFile({ words, take }: Props) {
  const [problem, setProblem] = useState<Problem | null>(null);
  const read = async (file: File): Promise<Problem | null> => {
    if (file.size > MOST_BYTES) return { ...NO_JSON, detail: 'That file is too large.' };
    let document: unknown;
    try {
      document = JSON.parse(await file.text());
    } catch {
      return NO_JSON;
    }
    if (typeof document !== 'object' || document === null || Array.isArray(document)) return NO_JSON;
    return take(document as Record<string, unknown>, file.name);
  };
  return (
    <>
      <label className="quiet my-1 flex min-h-10 cursor-pointer items-center gap-2 text-body">
        {words}
        <input
          type="file"
          accept=".json,application/json"
          className="cursor-pointer file:mr-3 file:min-h-10 file:cursor-pointer file:border file:border-ink file:bg-transparent file:px-4 file:font-semibold"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = '';
            if (chosen) void read(chosen).then((p) => setProblem(unlessKept(p)));
          }}
        />
      </label>
      <Refusal problem={problem} />
    </>
  );
}
