import type { Schemas } from '../../api/client';

type Flag = Schemas['FlagShown'];
type SheetShown = Schemas['SheetShown'];

export interface Lit {
  closed: readonly string[];
  alive: readonly string[];
  hot: readonly string[];
  on: readonly string[];
}

interface Props {
  sheet: SheetShown;
  lit: Lit;
  /** Nets, parts and terminals to be marked as dangerous. */
  danger?: { nets: readonly string[]; parts: readonly string[]; pins: readonly string[] };
  /** What is said on the drawing, along the path it belongs to. */
  flags?: readonly Flag[];
  label: string;
  onPin?: (terminal: string) => void;
  picked?: string;
}

const INSET = 46;

/** The circuit as a drawing: what carries current in copper and weight, what is dangerous in amber along its path. */
export function Sheet({ sheet, lit, danger, label, onPin, picked, flags = [] }: Props) {
  const closed = new Set(lit.closed);
  const alive = new Set(lit.alive);
  const hot = new Set(lit.hot);
  const on = new Set(lit.on);
  const nets = new Set(danger?.nets);
  const parts = new Set(danger?.parts);
  const pins = new Set(danger?.pins);
  const low = Math.max(sheet.height, ...flags.map((f) => f.y + f.height + 6));
  return (
    // Never smaller than its letters can be read: wider than its frame it is scrolled.
    <svg viewBox={`0 0 ${sheet.width} ${low}`} className="h-auto w-full" style={{ minWidth: sheet.width * LEAST }} role="img" aria-label={label}>
      {sheet.runs.map((run) => {
        const stroke = alive.has(run.net) ? 'var(--color-copper)' : hot.has(run.net) ? 'var(--color-flow)' : 'var(--color-ink)';
        const width = alive.has(run.net) ? 3.4 : hot.has(run.net) ? 2.4 : 1.3;
        return (
          <g key={run.net}>
            {nets.has(run.net) &&
              run.pieces.map(({ x1, y1, x2, y2 }, i) => (
                <line key={i} x1={x1} y1={y1} x2={x2} y2={y2} stroke="var(--color-hazard)" strokeWidth={9} strokeLinecap="round" />
              ))}
            {run.pieces.map(({ x1, y1, x2, y2 }, i) => (
              <line
                key={i}
                x1={x1}
                y1={y1}
                x2={x2}
                y2={y2}
                stroke={stroke}
                strokeWidth={width}
                strokeLinecap="square"
                strokeDasharray={run.purpose === 'bond' ? '7 4' : undefined}
                opacity={run.purpose === 'bond' || run.purpose === 'neutral' || width > 2 ? 1 : 0.75}
              >
                <title>{`net ${run.net}`}</title>
              </line>
            ))}
            {run.dots.map(({ x, y }, i) => (
              <circle key={i} cx={x} cy={y} r={width > 2 ? 3.6 : 2.8} fill={stroke} />
            ))}
          </g>
        );
      })}
      {sheet.boxes.map((box) => (
        <g key={box.part}>
          <rect
            x={box.x}
            y={box.y}
            width={box.width}
            height={box.height}
            fill={on.has(box.part) ? 'var(--color-shade)' : 'var(--color-paper)'}
            stroke={parts.has(box.part) ? 'var(--color-hazard)' : on.has(box.part) ? 'var(--color-copper)' : 'var(--color-ink)'}
            strokeWidth={parts.has(box.part) ? 4 : on.has(box.part) ? 2.2 : 1.2}
          />
          <text x={box.x + 7} y={box.y + 17} fontSize={15} fontWeight={700}>
            {box.part}
          </text>
          {box.blades.map((b) => {
            const made = closed.has(b.key);
            const [x1, x2] = [inner(box, b.x1), inner(box, b.x2)];
            // An open contact stands away from where it would make.
            const [ex, ey] = made ? [x2, b.y2] : [x1 + (x2 - x1) * 0.62 + (x1 === x2 ? 9 : 0), b.y1 + (b.y2 - b.y1) * 0.62 - (b.y1 === b.y2 ? 8 : 0)];
            return (
              <g key={b.key}>
                <line
                  x1={x1}
                  y1={b.y1}
                  x2={ex}
                  y2={ey}
                  stroke={made ? 'var(--color-copper)' : 'var(--color-muted)'}
                  strokeWidth={made ? 2.6 : 1.4}
                  strokeLinecap="round"
                />
                <circle cx={x1} cy={b.y1} r={2.4} fill="var(--color-ink)" />
                <circle cx={x2} cy={b.y2} r={2.4} fill="var(--color-ink)" />
              </g>
            );
          })}
          {box.pins.map((p) => (
            <g key={p.terminal} className={onPin ? 'cursor-pointer' : undefined} onClick={onPin ? () => onPin(p.terminal) : undefined}>
              {onPin && <rect x={p.left ? box.x : box.x + box.width / 2} y={p.y - 11} width={box.width / 2} height={22} fill="transparent" />}
              <circle
                cx={p.x}
                cy={p.y}
                r={picked === p.terminal ? 6 : 3.6}
                fill={p.net ? 'var(--color-ink)' : 'var(--color-paper)'}
                stroke={pins.has(p.terminal) ? 'var(--color-hazard)' : picked === p.terminal ? 'var(--color-copper)' : 'var(--color-ink)'}
                strokeWidth={pins.has(p.terminal) || picked === p.terminal ? 3 : 1.3}
              />
              <text x={p.left ? p.x + 8 : p.x - 8} y={p.y + 5} textAnchor={p.left ? 'start' : 'end'} fontSize={15} className="mono">
                {short(p.name)}
              </text>
            </g>
          ))}
        </g>
      ))}
      {flags.map((f, i) => (
        <g key={i}>
          <line x1={f.to_x} y1={f.to_y} x2={clamp(f.to_x, f.x, f.width)} y2={clamp(f.to_y, f.y, f.height)} stroke="var(--color-hazard)" strokeWidth={2} />
          <circle cx={f.to_x} cy={f.to_y} r={5} fill="var(--color-hazard)" />
          <rect x={f.x} y={f.y} width={f.width} height={f.height} fill="var(--color-paper)" stroke="var(--color-hazard)" strokeWidth={2} />
          <text fontSize={15} fontWeight={600}>
            {f.lines.map((line, k) => (
              <tspan key={k} x={f.x + 5} y={f.y + 18 + 18 * k}>
                {line}
              </tspan>
            ))}
          </text>
        </g>
      ))}
    </svg>
  );
}

const LEAST = 0.74;
const clamp = (at: number, from: number, span: number) => Math.min(Math.max(at, from), from + span);
const inner = (box: { x: number; width: number }, x: number) => (x <= box.x ? box.x + INSET : box.x + box.width - INSET);
const short = (name: string) => (name.length > 7 ? `${name.slice(0, 6)}…` : name);
