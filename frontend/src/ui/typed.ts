import { useCallback, useEffect, useState } from 'react';

const KEY = 'fenwit-typed';
const MOST = 200;
const DAYS = 14;

type Kept = Record<string, { text: string; at: number }>;

function all(): Kept {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Kept;
  } catch {
    return {};
  }
}

/** Text that was typed and not saved yet: it outlives Reload, Back and a closed window on this device. */
export const typedText = {
  of(key: string): string | null {
    const found = all()[key];
    return found && Date.now() - found.at < DAYS * 86_400_000 ? found.text : null;
  },
  keep(key: string, text: string) {
    const kept = Object.entries({ ...all(), [key]: { text, at: Date.now() } }).sort(([, a], [, b]) => b.at - a.at);
    try {
      localStorage.setItem(KEY, JSON.stringify(Object.fromEntries(kept.slice(0, MOST))));
    } catch {
      // A full store keeps nothing more; the field itself still has its text.
    }
  },
  drop(key: string) {
    const { [key]: gone, ...rest } = all();
    if (gone !== undefined) localStorage.setItem(KEY, JSON.stringify(rest));
  },
};

function remembered<T>(key: string, start: T): T {
  const text = typedText.of(key);
  try {
    return text === null ? start : (JSON.parse(text) as T);
  } catch {
    return start;
  }
}

/** A value that a form is filled with, kept on this device until it is sent or left. */
export function useTyped<T>(key: string, start: T): [T, (value: T) => void, () => void] {
  const [value, setValue] = useState<T>(() => remembered(key, start));
  const [known, setKnown] = useState(key);
  if (known !== key) {
    setKnown(key);
    setValue(remembered(key, start));
  }
  const set = useCallback(
    (next: T) => {
      setValue(next);
      typedText.keep(key, JSON.stringify(next));
    },
    [key],
  );
  const clear = useCallback(() => {
    setValue(start);
    typedText.drop(key);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what a form starts with does not change while it is open
  }, [key]);
  return [value, set, clear];
}

/** Keep the text of a field while it is typed, and forget it once it is saved or put back. */
export function useKeptText(key: string | null, text: string | null) {
  useEffect(() => {
    if (key === null) return;
    if (text === null) typedText.drop(key);
    else typedText.keep(key, text);
  }, [key, text]);
}
