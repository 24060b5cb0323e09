import type { Mark } from '../api/client';

interface Props {
  x: number;
  y: number;
  verdict: Mark['measured_verdict'];
}

/** Verdicts differ in shape: a filled ring within the band, an open diamond near it, an open triangle outside. */
export function VerdictSign({ x, y, verdict }: Props) {
  if (verdict === 'fail') {
    return <path d={`M${x} ${y - 8} l8 14 h-16 Z`} fill="var(--color-paper)" stroke="var(--color-copper)" strokeWidth={2.2} />;
  }
  if (verdict === 'near') {
    return <path d={`M${x} ${y - 7} l7 7 l-7 7 l-7 -7 Z`} fill="var(--color-paper)" stroke="var(--color-ink)" strokeWidth={2} />;
  }
  return <circle cx={x} cy={y} r={5} fill="var(--color-ink)" stroke="var(--color-paper)" strokeWidth={1.5} />;
}

const WORDS = { pass: 'holds', near: 'near', fail: 'fails' } as const;

/** The same sign in a line of text, with its word. */
export function VerdictWord({ verdict, say }: { verdict: Mark['measured_verdict']; say?: string }) {
  if (!verdict) return null;
  return (
    <span className={`inline-flex items-center gap-1.5 ${verdict === 'fail' ? 'text-copper' : ''}`}>
      <svg width={20} height={20} aria-hidden="true">
        <VerdictSign x={10} y={10} verdict={verdict} />
      </svg>
      {say ?? WORDS[verdict]}
    </span>
  );
}
