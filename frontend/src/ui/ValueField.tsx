import { useContext, useEffect, useId, useRef, useState, type KeyboardEvent } from 'react';
import type { Problem } from '../api/client';
import { useOutbox } from '../api/outbox';
import { JobContext } from '../job/context';
import { walkOn } from '../job/spot';
import { typedText, useKeptText } from './typed';

interface Props {
  label: string;
  /** The text that stands in the job now. */
  text: string;
  hint?: string;
  mono?: boolean;
  disabled?: boolean;
  /** Keep what was typed; resolves to the problem shown beside the field, or null. */
  onCommit: (text: string) => Promise<Problem | null>;
  /** Called after a commit by Enter in place of going on to the field that follows. */
  onEnter?: () => void;
  inputId?: string;
  multiline?: boolean;
  /** So many lines, in which Enter begins a new one; kept when the field is left. */
  lines?: number;
  /** The label is spoken only; what it belongs to is plain from where the field stands. */
  bare?: boolean;
  /** Walks on with an arrow key; returns whether there was somewhere to go. */
  onArrow?: (key: string) => boolean;
  /** Said under the field while nothing is wrong with it. */
  note?: string;
}

/** An input that keeps its text by itself, commits on Enter or when left, and never loses what was typed. */
export function ValueField({ label, text, hint, mono = true, disabled, onCommit, onEnter, inputId, multiline, lines, bare, onArrow, note }: Props) {
  const ownId = useId();
  const id = inputId ?? ownId;
  const kept = `${window.location.pathname} ${inputId ?? label}`;
  const [typed, setTyped] = useState<string | null>(() => restored(kept, text));
  const [problem, setProblem] = useState<Problem | null>(null);
  // A ref, since leaving the field must see at once that Enter is saving already: what is on its way, and what came after it.
  const sending = useRef<string | null>(null);
  const later = useRef<{ text: string; save: Props['onCommit'] } | null>(null);
  // The edit belongs to the version that was on screen when typing began, whatever arrives meanwhile.
  const [started, setStarted] = useState<Props['onCommit'] | null>(null);
  const waiting = useOutbox();
  const keptId = problem?.type === 'kept' ? String(problem.current) : null;
  const sent = keptId !== null && !waiting.some((e) => e.id === keptId);
  const shown = typed ?? text;
  const refused = problem !== null && problem.type !== 'kept';
  const saved = useContext(JobContext)?.page.saved_at;
  const before = useRef(saved);
  useKeptText(kept, typed);

  // Typed before and saved by now, from another place or after being offline.
  if (typed !== null && started === null && typed.trim() === text) setTyped(null);

  if (sent) {
    setTyped(null);
    setProblem(null);
    setStarted(null);
  }

  useEffect(() => {
    if (before.current === saved) return;
    before.current = saved;
    // What stood against it may be gone with the last save: then it is taken after all, and its message goes.
    if (refused && typed !== null && document.activeElement?.id !== id) void send(typed, onCommit, false);
  });

  // Before anybody else hears of the key: a dialog may close with it, and take the field along before its own handler runs.
  useEffect(() => {
    if (typed === null) return;
    const forget = (event: globalThis.KeyboardEvent) => {
      if (event.key === 'Escape' && document.activeElement?.id === id) typedText.drop(kept);
    };
    window.addEventListener('keydown', forget, { capture: true });
    return () => window.removeEventListener('keydown', forget, { capture: true });
  }, [typed, id, kept]);

  async function send(value: string, save: Props['onCommit'], byEnter: boolean) {
    if (sending.current !== null) return;
    sending.current = value.trim();
    later.current = null;
    const here = document.getElementById(id);
    // The next field is there at once, so that fast typing does not fall back into this one.
    if (byEnter) follow();
    const next = document.activeElement;
    const stood = next instanceof HTMLInputElement ? next.value : null;
    const found = await save(value.trim());
    sending.current = null;
    const after = later.current as { text: string; save: Props['onCommit'] } | null;
    if (after) {
      // It was committed while the one before was on its way, and the focus has gone on since.
      await send(after.text, after.save, false);
      return;
    }
    setProblem(found);
    if (!found) {
      setTyped((now) => (now === value ? null : now));
      setStarted(null);
    } else if (found.type === 'kept') {
      setStarted(null);
    } else if (byEnter && next instanceof HTMLInputElement && next.id !== id && next.value === stood) {
      here?.focus();
    }
  }

  function follow() {
    const here = document.getElementById(id);
    if (onEnter) onEnter();
    else if (here) walkOn(here);
  }

  function commit(byEnter: boolean) {
    if (sending.current !== null) {
      later.current = typed !== null && typed.trim() !== sending.current ? { text: typed, save: started ?? onCommit } : null;
      if (byEnter) follow();
      return;
    }
    // What waits on this device is not sent twice.
    if (typed === null || typed.trim() === text || (keptId !== null && started === null)) {
      if (keptId === null) {
        setTyped(null);
        setStarted(null);
        setProblem(null);
      }
      if (byEnter) follow();
      return;
    }
    void send(typed, started ?? onCommit, byEnter);
  }

  function onKey(event: KeyboardEvent) {
    if (event.key === 'Enter' && !lines && !(multiline && event.shiftKey)) {
      event.preventDefault();
      commit(true);
    } else if (onArrow && /^Arrow(Up|Down|Left|Right)$/.test(event.key) && (typed === null || event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      if (onArrow(event.key)) event.preventDefault();
    } else if (event.key === 'Escape' && typed !== null) {
      event.stopPropagation();
      setTyped(null);
      setStarted(null);
      setProblem(null);
    }
  }

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
    onBlur: () => commit(false),
    onKeyDown: onKey,
    autoComplete: 'off',
  };
  const meant = refused ? problem.meant : null;
  return (
    <div className="min-w-0">
      <label htmlFor={id} className={bare ? 'sr-only' : 'quiet block text-note'}>
        {label}
      </label>
      {multiline || lines ? (
        <textarea {...shared} rows={lines ?? 2} maxLength={8000} placeholder={hint} className={`input resize-none py-2 ${lines ? 'mono text-body' : ''}`} />
      ) : (
        <input {...shared} maxLength={120} placeholder={hint && (/^[0-9]/.test(hint) ? `like ${hint}` : hint)} className={`input ${mono ? 'mono' : ''}`} />
      )}
      <div id={`${id}-note`} role={refused ? 'alert' : problem ? 'status' : undefined} className={`text-note ${refused ? 'text-copper' : 'text-caution'}`}>
        {problem && (
          <>
            {problem.detail}
            {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
          </>
        )}
        {meant && (
          <>
            {' '}
            <button
              type="button"
              className="link-button font-semibold text-ink"
              // The field keeps the focus, so that leaving it does not send the slip once more.
              onPointerDown={(event) => event.preventDefault()}
              onMouseDown={(event) => event.preventDefault()}
              onClick={() => {
                setTyped(meant);
                void send(meant, onCommit, false);
              }}
            >
              {meant}?
            </button>
          </>
        )}
        {!problem && note && <span className="quiet">{note}</span>}
        {!problem && typed !== null && started === null && <span>typed before, not saved: Enter keeps it</span>}
      </div>
    </div>
  );
}

/** Text typed earlier into this field and not saved; none where it is what stands there anyway. */
function restored(key: string, text: string): string | null {
  const found = typedText.of(key);
  return found === null || found.trim() === text ? null : found;
}
