import { useCallback, useEffect, useState } from 'react';

type Theme = 'light' | 'dark';
const KEY = 'fenwit-theme';

function chosen(): Theme {
  const kept = localStorage.getItem(KEY);
  if (kept === 'light' || kept === 'dark') return kept;
  return window.matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
}

/** Put the theme on the page before anything is drawn. */
export function applyTheme(theme: Theme = chosen()) {
  document.documentElement.dataset.theme = theme;
}

/** The theme, and a way to turn it over; kept on this device. */
export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState<Theme>(chosen);
  useEffect(() => applyTheme(theme), [theme]);
  const turn = useCallback(() => {
    setTheme((now) => {
      const next = now === 'dark' ? 'light' : 'dark';
      localStorage.setItem(KEY, next);
      return next;
    });
  }, []);
  return [theme, turn];
}
