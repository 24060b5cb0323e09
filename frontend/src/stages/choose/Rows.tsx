import { RadioGroup } from 'radix-ui';
import { useLayoutEffect, useRef } from 'react';
import type { Row, Shown } from './api';
import { Lying } from './Lying';

const BARS = [
  ['regulator', 'regulator heat'],
  ['rise', 'winding rise'],
  ['hum', 'hum'],
  ['thd', 'interference'],
] as const;

interface Props {
  shown: Shown;
  full: number;
  selected: number;
  looked: string | null;
  onLook: (key: string) => void;
  onTake: () => void;
}

/** One row for each way: its lying staff, thin bars on one scale down the column, words; and why it stands where it does. */
export function Rows({ shown, full, selected, looked, onLook, onTake }: Props) {
  const open = shown.rows.filter((r) => r.live);
  const list = useGlide(open.map((r) => r.key).join());
  const columns =
    'grid grid-cols-[158px_minmax(110px,1.1fr)_minmax(100px,0.9fr)_repeat(4,66px)_minmax(170px,1.25fr)] items-center gap-x-4 max-[1100px]:grid-cols-[128px_minmax(90px,1fr)_repeat(4,60px)_minmax(120px,1fr)] max-[1100px]:gap-x-3 max-[900px]:grid-cols-[118px_minmax(56px,1fr)_repeat(3,58px)_70px]';
  return (
    <div>
      <div className={`${columns} quiet text-note`} aria-hidden="true">
        <span />
        <span>speeds, 0 to full</span>
        <span className="max-[1100px]:hidden">
          step {selected}, watts: <span className="font-semibold text-air">shaft</span> <span className="font-semibold text-ink">motor</span>{' '}
          <span className="font-semibold text-copper">regulator</span>
        </span>
        {BARS.map(([key, name]) => (
          <span key={key}>{name}</span>
        ))}
        <span className="max-[900px]:hidden">why it stands here</span>
      </div>
      <RadioGroup.Root ref={list} value={looked ?? ''} onValueChange={onLook} loop={false} orientation="vertical" aria-label="Ways of regulating">
        {shown.groups.map((group) => (
          <div key={group.keys.join()} data-glide={group.keys.join()}>
            {group.keys.map((key, i) => {
              const row = open.find((r) => r.key === key);
              return (
                row && (
                  <Way
                    key={key}
                    row={row}
                    why={i === 0 ? group.words : ''}
                    alike={i > 0 || !group.words ? group.alike : ''}
                    columns={columns}
                    full={full}
                    most={shown.most_w}
                    selected={selected}
                    on={key === looked}
                    onLook={() => onLook(key)}
                    onTake={onTake}
                  />
                )
              );
            })}
          </div>
        ))}
      </RadioGroup.Root>
    </div>
  );
}

interface WayProps {
  row: Row;
  /** Why it stands behind those ahead; empty for the first of its group. */
  why: string;
  /** In what it is alike with those beside it. */
  alike: string;
  columns: string;
  full: number;
  most: number;
  selected: number;
  on: boolean;
  onLook: () => void;
  onTake: () => void;
}

function Way({ row, why, alike, columns, full, most, selected, on, onLook, onTake }: WayProps) {
  const watts = row.watts.find((w) => w.step === selected);
  const merit = (key: string) => row.merits.find((m) => m.key === key);
  const say = (key: string) => merit(key)?.text ?? '';
  const wide = (w: number) => `${(100 * w) / Math.max(most, 1e-6)}%`;
  return (
    <RadioGroup.Item
      id={`way-${row.key}`}
      value={row.key}
      aria-label={`${row.name}${row.words ? `, ${row.words}` : ''}: ${watts ? `${watts.text} at step ${selected}, ` : ''}regulator ${say('regulator')}, winding rise ${say('rise')}, hum ${say('hum')}, interference ${say('thd')}, cost ${say('cost')}, ${say('parts')} parts; ${why || alike}`}
      onFocus={onLook}
      onKeyDown={(event) => {
        if (event.key === 'Enter') onTake();
        // Here the arrows walk through the ways, not through the steps.
        if (event.key.startsWith('Arrow')) event.stopPropagation();
      }}
      className={`${columns} min-h-[46px] w-full cursor-pointer border-t border-rule py-0.5 text-left ${on ? 'bg-shade' : ''}`}
    >
      <span className={`min-w-0 leading-tight ${on ? 'font-bold text-copper' : 'font-semibold'}`}>
        {row.name}
        <span className="quiet block truncate text-note font-normal" title={row.words}>
          {row.words ? `△ ${row.words}` : row.stepless ? 'stepless' : 'in steps'}
        </span>
      </span>
      {row.live && <Lying live={row.live} full={full} id={row.key} selected={selected} />}
      <span className="max-[1100px]:hidden">
        {watts ? (
          <>
            <span className="flex h-2 w-full bg-shade" aria-hidden="true">
              <span className="h-full bg-air" style={{ width: wide(watts.shaft_w) }} />
              <span className="h-full bg-ink" style={{ width: wide(watts.motor_w) }} />
              <span className="h-full bg-copper" style={{ width: wide(watts.regulator_w) }} />
            </span>
            <span className="mono text-note">{watts.text}</span>
          </>
        ) : (
          <span className="quiet text-note">not at this step</span>
        )}
      </span>
      {BARS.map(([key]) => {
        const m = merit(key);
        return (
          <span key={key} className="min-w-0">
            <span className="block h-1.5 w-full bg-shade" aria-hidden="true">
              <span className="block h-full bg-ink" style={{ width: `${100 * Math.min(1, m?.share ?? 0)}%` }} />
            </span>
            <span className="mono block truncate text-note">
              {m?.text}
              {key === 'thd' && row.unmodelled && m?.text === 'none' ? '*' : ''}
            </span>
          </span>
        );
      })}
      <span className="quiet min-w-0 text-note leading-tight max-[900px]:col-span-full">{why || alike || 'first by these wishes'}</span>
    </RadioGroup.Item>
  );
}

/** Rows glide to their new place when their order changes. */
function useGlide(order: string) {
  const list = useRef<HTMLDivElement>(null);
  const before = useRef(new Map<string, number>());
  useLayoutEffect(() => {
    const now = new Map<string, number>();
    const still = window.matchMedia('(prefers-reduced-motion: reduce)').matches;
    list.current?.querySelectorAll<HTMLElement>('[id^="way-"]').forEach((row) => {
      const top = row.offsetTop;
      now.set(row.id, top);
      const was = before.current.get(row.id);
      if (was !== undefined && was !== top && !still) {
        row.animate([{ transform: `translateY(${was - top}px)` }, { transform: 'none' }], { duration: 320, easing: 'ease-out' });
      }
    });
    before.current = now;
  }, [order]);
  return list;
}
