import { useRef, useState } from 'react';
import { problemOf, type Problem } from '../api/client';

interface Props {
  heading: string;
  /** What the file is, spoken. */
  label: string;
  /** Reads a file and keeps what it says; resolves to the problem, or null. */
  take: (text: string, name: string) => Promise<Problem | null>;
}

/** A heading with a way to fill what stands under it from a file. */
export function FromFile({ heading, label, take }: Props) {
  const file = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const read = async (chosen: File) => {
    try {
      setProblem(await take(await chosen.text(), chosen.name));
    } catch (error) {
      setProblem(problemOf(error));
    }
  };
  return (
    <>
      <div className="flex items-baseline justify-between">
        <h3 className="heading text-body">{heading}</h3>
        <button type="button" className="link-button text-note" onClick={() => file.current?.click()}>
          from CSV
        </button>
        <input
          ref={file}
          type="file"
          accept=".csv,text/csv,text/plain"
          className="sr-only"
          tabIndex={-1}
          aria-label={label}
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = '';
            if (chosen) void read(chosen);
          }}
        />
      </div>
      {problem && (
        <p role="alert" className="text-note text-copper">
          {problem.detail} <span className="quiet">{problem.allowed}</span>
        </p>
      )}
    </>
  );
}
