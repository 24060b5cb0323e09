import type { Schemas } from '../../api/client';
import { useSize } from '../../ui/useSize';

type Tree = Schemas['TreeShown'];

const PAD = { left: 40, right: 40, top: 38 };
const LANE = 88;

/** The winding as a tree: sections as coils with their ohms, leads as terminals with their roles. */
export function LeadTree({ tree, colours }: { tree: Tree; colours: ReadonlyMap<string, string> }) {
  const [ref, { width }] = useSize();
  const lanes = Math.max(0, ...tree.nodes.map((n) => n.y));
  const height = PAD.top + lanes * LANE + 76;
  const x = (at: number) => PAD.left + at * Math.max(10, width - PAD.left - PAD.right);
  const y = (at: number) => PAD.top + at * LANE;
  const at = new Map(tree.nodes.map((n) => [n.name, n]));
  return (
    <div ref={ref} className="w-full">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Winding: ${tree.sections.map((s) => `${s.start} to ${s.end} ${s.ohm_text}`).join(', ')}. ${tree.roles_text}`}
      >
        {tree.sections.map((s) => {
          const a = at.get(s.start);
          const b = at.get(s.end);
          if (!a || !b) return null;
          const [x1, y1, x2, y2] = [x(a.x), y(a.y), x(b.x), y(b.y)];
          const slanted = Math.abs(y1 - y2) > 1;
          const middle = [(x1 + x2) / 2, (y1 + y2) / 2] as const;
          return (
            <g key={`${s.start} ${s.end}`}>
              <path
                d={coil(x1, y1, x2, y2)}
                fill="none"
                stroke={s.kind === 'start' ? 'var(--color-air)' : 'var(--color-copper)'}
                strokeWidth={s.kind === 'main' ? 2.6 : 1.8}
                strokeDasharray={s.settled ? undefined : '3 4'}
              />
              <text
                className="mono on-paper text-body"
                x={middle[0] + (slanted ? 10 : 0)}
                y={middle[1] - (slanted ? 0 : 13)}
                textAnchor={slanted ? 'start' : 'middle'}
                fontWeight={600}
              >
                {s.ohm_text}
              </text>
              <text
                className="on-paper text-note"
                x={middle[0] + (slanted ? 10 : 0)}
                y={middle[1] + (slanted ? 15 : 24)}
                textAnchor={slanted ? 'start' : 'middle'}
                opacity={0.8}
              >
                {[KIND[s.kind] ?? '', s.residual_text].filter(Boolean).join(' ')}
              </text>
            </g>
          );
        })}
        {tree.nodes.map((n) => (
          <g key={n.name}>
            {n.buried ? (
              <circle cx={x(n.x)} cy={y(n.y)} r={4} fill="var(--color-ink)" />
            ) : (
              <>
                <line x1={x(n.x)} x2={x(n.x)} y1={y(n.y)} y2={y(n.y) + 20} stroke="var(--color-ink)" strokeWidth={1.6} />
                <circle cx={x(n.x)} cy={y(n.y) + 24} r={5} fill="var(--color-paper)" stroke="var(--color-ink)" strokeWidth={1.8} />
                <text className="text-lead" x={x(n.x)} y={y(n.y) + 43} textAnchor="middle" fontWeight={700}>
                  {n.name}
                </text>
                <text className="text-note" x={x(n.x)} y={y(n.y) + 58} textAnchor="middle" fontWeight={500}>
                  {n.role}
                </text>
                <text className="text-note" x={x(n.x)} y={y(n.y) + 73} textAnchor="middle" opacity={0.75}>
                  {colours.get(n.name) ?? ''}
                </text>
              </>
            )}
          </g>
        ))}
      </svg>
    </div>
  );
}

const KIND: Record<string, string> = { main: 'main', start: 'start', tap: '' };

/** A line with a coil in its middle. */
function coil(x1: number, y1: number, x2: number, y2: number): string {
  const length = Math.hypot(x2 - x1, y2 - y1);
  const turns = Math.max(2, Math.min(7, Math.round(length / 26)));
  const wide = Math.min(turns * 11, length * 0.7);
  const [ux, uy] = [(x2 - x1) / (length || 1), (y2 - y1) / (length || 1)];
  const start = (length - wide) / 2;
  const r = wide / turns / 2;
  const point = (d: number) => `${x1 + ux * d} ${y1 + uy * d}`;
  const arcs = Array.from({ length: turns }, (_, i) => `A${r} ${r} 0 0 1 ${point(start + (i + 1) * 2 * r)}`);
  return `M${point(0)} L${point(start)} ${arcs.join(' ')} L${point(length)}`;
}
