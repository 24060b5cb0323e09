/** Every key of the application, in one table: what is shown as help is what is listened to. */

export type Action =
  | 'select'
  | 'up'
  | 'down'
  | 'before'
  | 'after'
  | 'into'
  | 'table'
  | 'why'
  | 'take'
  | 'undo'
  | 'redo'
  | 'print'
  | 'theme'
  | 'bench'
  | 'shelf'
  | 'desk'
  | 'new'
  | 'find'
  | 'keys';

export type Place = 'job' | 'bench' | 'shelf' | 'desk';

interface Row {
  /** As it is shown. */
  show: string;
  what: string;
  /** What the keys do here; empty for keys that a part of the page listens to by itself. */
  on: readonly (readonly [key: string, action: Action])[];
  places: readonly Place[];
}

const EVERYWHERE = ['job', 'bench', 'shelf', 'desk'] as const;
const digits = Array.from({ length: 8 }, (_, i) => [String(i + 1), 'select'] as const);

export const KEYS: readonly Row[] = [
  { show: '1 … 8', what: 'select a step', on: digits, places: ['job'] },
  {
    show: '↑ ↓',
    what: 'next step up or down; on a notch of the staff: move it by 1 rpm',
    on: [
      ['ArrowUp', 'up'],
      ['ArrowDown', 'down'],
    ],
    places: ['job'],
  },
  { show: 'Page ↑ ↓', what: 'on a notch: move it by 10 rpm', on: [], places: ['job'] },
  {
    show: '[  ]',
    what: 'stage before, stage after',
    on: [
      ['[', 'before'],
      [']', 'after'],
    ],
    places: ['job'],
  },
  { show: 'Enter', what: 'in Prove and Measure: take the reading and go on to the next', on: [], places: ['job'] },
  { show: 'r', what: 'in Prove: read the next off the device in hand', on: [['r', 'take']], places: ['job'] },
  { show: 'Esc', what: 'put a field back; once more: leave it', on: [], places: ['job'] },
  { show: 'g', what: 'into the stage: its first field or button', on: [['g', 'into']], places: ['job'] },
  { show: 't', what: 'table of the numbers behind the pictures', on: [['t', 'table']], places: ['job'] },
  { show: 'w', what: 'why this speed? Any underlined number answers the same with Enter', on: [['w', 'why']], places: ['job'] },
  {
    show: 'u  U',
    what: 'undo, redo (Ctrl Z and Ctrl Y too)',
    on: [
      ['u', 'undo'],
      ['U', 'redo'],
    ],
    places: ['job', 'shelf'],
  },
  { show: 'p', what: 'printable page; on it: p prints, Esc goes back', on: [['p', 'print']], places: ['job'] },
  { show: 'd', what: 'dark or light', on: [['d', 'theme']], places: EVERYWHERE },
  { show: 'b', what: 'to the Bench', on: [['b', 'bench']], places: ['job', 'shelf', 'desk'] },
  { show: 's', what: 'to the shelf', on: [['s', 'shelf']], places: ['job', 'bench', 'desk'] },
  { show: 'c', what: 'to the Desk: single calculations', on: [['c', 'desk']], places: ['job', 'bench', 'shelf'] },
  {
    show: 'n  /',
    what: 'on Bench and shelf: new, find; on the Desk: find',
    on: [
      ['n', 'new'],
      ['/', 'find'],
    ],
    places: ['bench', 'shelf', 'desk'],
  },
  { show: '?', what: 'these keys', on: [['?', 'keys']], places: EVERYWHERE },
];

/** Whether a key belongs to a field or a dialog rather than to the page. */
export function typing(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey) return true;
  const at = event.target;
  if (!(at instanceof HTMLElement)) return false;
  return at.matches('input, textarea, select, [role="slider"]') || at.closest('[role="dialog"], [role="alertdialog"]') !== null;
}

/** What a key means at a place; null where it is none of the page's. */
export function actionOf(event: KeyboardEvent, place: Place): Action | null {
  const undoing = (event.ctrlKey || event.metaKey) && /^[zy]$/i.test(event.key);
  const inField = event.target instanceof HTMLElement && event.target.matches('input, textarea');
  if (undoing && !inField && place !== 'bench' && place !== 'desk') return event.key.toLowerCase() === 'y' || event.shiftKey ? 'redo' : 'undo';
  if (typing(event)) return null;
  for (const row of KEYS) {
    if (!row.places.includes(place)) continue;
    const found = row.on.find(([key]) => key === event.key);
    if (found) return found[1];
  }
  return null;
}
