import { useLayoutEffect, useRef } from 'react';
import { actionOf, type Action, type Place } from './keys';

export type Handlers = Partial<Record<Action, (event: KeyboardEvent) => void>>;

/** Do what the table of keys says, at one place of the application. */
export function useKeys(place: Place, handlers: Handlers) {
  const latest = useRef(handlers);
  // With what is on screen, not a moment later: a key pressed at once means what is seen.
  useLayoutEffect(() => {
    latest.current = handlers;
  });
  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const action = actionOf(event, place);
      const handle = action ? latest.current[action] : undefined;
      if (!handle) return;
      handle(event);
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [place]);
}
