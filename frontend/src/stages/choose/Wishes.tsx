import { useState } from 'react';
import type { Problem } from '../../api/client';
import type { Wish } from './api';

interface Props {
  wishes: readonly Wish[];
  counted: number;
  save: (wishes: Wish['key'][]) => Promise<Problem | null>;
}

/** What matters as words in an order, weightiest first; dragged, or moved with the arrow keys. */
export function Wishes({ wishes, counted, save }: Props) {
  const own = wishes.slice(0, counted).map((w) => w.key);
  const [dragged, setDragged] = useState<Wish['key'] | null>(null);
  const say = (key: Wish['key']) => wishes.find((w) => w.key === key)?.name ?? key;
  const put = (key: Wish['key'], at: number) => {
    const rest = own.filter((k) => k !== key);
    const next = [...rest.slice(0, at), key, ...rest.slice(at)];
    if (next.join() !== own.join()) void save(next);
    // The word keeps the focus in its new place.
    requestAnimationFrame(() => document.getElementById(`wish-${key}`)?.focus());
  };
  return (
    <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
      <span className="quiet text-body">what matters, weightiest first</span>
      <ol aria-label="What matters, weightiest first" className="flex flex-wrap items-center gap-x-1">
        {own.map((key, i) => (
          <li
            key={key}
            draggable
            onDragStart={() => setDragged(key)}
            onDragEnd={() => setDragged(null)}
            onDragOver={(e) => dragged && e.preventDefault()}
            onDrop={() => dragged && dragged !== key && put(dragged, i)}
            className={`flex items-center border-b-2 ${dragged === key ? 'border-rule opacity-60' : 'border-copper'}`}
          >
            <button
              id={`wish-${key}`}
              type="button"
              className="min-h-10 cursor-grab px-1.5 font-bold"
              aria-label={`${say(key)}, place ${i + 1} of ${own.length}; arrow keys move it, Delete takes it away`}
              onKeyDown={(e) => {
                const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[e.key];
                if (by !== undefined) {
                  e.preventDefault();
                  e.stopPropagation();
                  put(key, Math.min(Math.max(0, i + by), own.length - 1));
                } else if (e.key === 'Delete' || e.key === 'Backspace') {
                  e.preventDefault();
                  void save(own.filter((k) => k !== key));
                }
              }}
            >
              <span className="mono quiet pr-1 text-note">{i + 1}</span>
              {say(key)}
            </button>
            <button
              type="button"
              className="quiet min-h-10 min-w-8"
              aria-label={`${say(key)} does not matter`}
              onClick={() => void save(own.filter((k) => k !== key))}
            >
              ×
            </button>
          </li>
        ))}
      </ol>
      <label className="flex items-center gap-1 text-body">
        <span className="sr-only">add what matters</span>
        <select
          className="input w-44!"
          value=""
          onChange={(e) => {
            const key = wishes.find((w) => w.key === e.target.value)?.key;
            if (key) void save([...own, key]);
          }}
        >
          <option value="">add a wish…</option>
          {wishes.slice(counted).map((w) => (
            <option key={w.key} value={w.key}>
              {w.name} ({w.merit})
            </option>
          ))}
        </select>
      </label>
    </div>
  );
}
