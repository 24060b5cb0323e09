import { useEffect, useState } from 'react';

/** The value once it has been left alone for a moment: a search is not asked for at every frame of a drag. */
export function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(value), 120);
    return () => window.clearTimeout(timer);
  }, [value]);
  return settled;
}
