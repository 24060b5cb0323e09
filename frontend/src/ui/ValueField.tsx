import { useId, useRef, useState, type KeyboardEvent } from 'react';
import type { Problem } from '../api/client';
import { useOutbox } from '../api/outbox';

interface Props {
  label: string;
  /** The text that stands in the job now. */
  text: string;
  hint?: string;
  mono?: boolean;
  disabled?: boolean;
  /** Keep what was typed; resolves to the problem shown beside the field, or null. */
  onCommit: (text: string) => Promise<Problem | null>;
  /** Called after a commit by Enter that was accepted. */
  onEnter?: () => void;
  inputId?: string;
  multiline?: boolean;
  /** The label is spoken only; what it belongs to is plain from where the field stands. */
  bare?: boolean;
  /** Walks on with an arrow key; returns whether there was somewhere to go. */
  onArrow?: (key: string) => boolean;
}

/** An input that keeps its text by itself, commits on Enter or when left, and never loses what was typed. */
export function ValueField({ label, text, hint, mono = true, disabled, onCommit, onEnter, inputId, multiline, bare, onArrow }: Props) {
  const ownId = useId();
  const id = inputId ?? ownId;
  const [typed, setTyped] = useState<string | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  // A ref, since leaving the field must see at once that Enter is saving already.
  const busy = useRef(false);
  // The edit belongs to the version that was on screen when typing began, whatever arrives meanwhile.
  const [started, setStarted] = useState<Props['onCommit'] | null>(null);
  const waiting = useOutbox();
  const keptId = problem?.type === 'kept' ? String(problem.current) : null;
  const sent = keptId !== null && !waiting.some((e) => e.id === keptId);
  const shown = typed ?? text;

  if (sent) {
    setTyped(null);
    setProblem(null);
    setStarted(null);
  }

  async function commit(byEnter: boolean) {
    if (busy.current) return;
    // What waits on this device is not sent twice.
    if (typed === null || typed.trim() === text || (keptId !== null && started === null)) {
      if (keptId === null) {
        setTyped(null);
        setStarted(null);
        setProblem(null);
      }
      if (byEnter) onEnter?.();
      return;
    }
    busy.current = true;
    // The next field is there at once, so that fast typing does not fall back into this one.
    if (byEnter) onEnter?.();
    const next = document.activeElement;
    const before = next instanceof HTMLInputElement ? next.value : null;
    const refused = await (started ?? onCommit)(typed.trim());
    busy.current = false;
    setProblem(refused);
    if (!refused) {
      setTyped((now) => (now === typed ? null : now));
      setStarted(null);
    } else if (refused.type === 'kept') {
      setStarted(null);
    } else if (byEnter && next instanceof HTMLInputElement && next.id !== id && next.value === before) {
      document.getElementById(id)?.focus();
    }
  }

  function onKey(event: KeyboardEvent) {
    if (event.key === 'Enter' && !(multiline && event.shiftKey)) {
      event.preventDefault();
      void commit(true);
    } else if (onArrow && /^Arrow(Up|Down|Left|Right)$/.test(event.key) && (typed === null || event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      if (onArrow(event.key)) event.preventDefault();
    } else if (event.key === 'Escape' && typed !== null) {
      event.stopPropagation();
      setTyped(null);
      setStarted(null);
      setProblem(null);
    }
  }

  const refused = problem !== null && problem.type !== 'kept';
  const shared = {
    id,
    value: shown,
    disabled,
    'aria-invalid': refused,
    'aria-describedby': `${id}-note`,
    onChange: (event: { target: { value: string } }) => {
      if (started === null) setStarted(() => onCommit);
      setTyped(event.target.value);
    },
    onBlur: () => void commit(false),
    onKeyDown: onKey,
    autoComplete: 'off',
  };
  return (
    <div className="min-w-0">
      <label htmlFor={id} className={bare ? 'sr-only' : 'quiet block text-note'}>
        {label}
      </label>
      {multiline ? (
        <textarea {...shared} rows={2} maxLength={2000} className="input resize-none py-2" />
      ) : (
        <input {...shared} maxLength={120} placeholder={hint} className={`input placeholder:text-muted/60 ${mono ? 'mono' : ''}`} />
      )}
      <div id={`${id}-note`} role={refused ? 'alert' : problem ? 'status' : undefined} className={`text-note ${refused ? 'text-copper' : 'text-caution'}`}>
        {problem && (
          <>
            {problem.detail}
            {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
          </>
        )}
      </div>
    </div>
  );
}
