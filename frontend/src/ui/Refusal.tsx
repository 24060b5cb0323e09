import type { Problem } from '../api/client';

/** Why something was refused, and what would be allowed. */
export function Refusal({ problem, className = 'mt-1' }: { problem: Problem | null; className?: string }) {
  if (!problem) return null;
  return (
    <p role="alert" className={`text-copper ${className}`}>
      {problem.detail}
      {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
    </p>
  );
}
