import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { useSize } from '../../ui/useSize';

/** A load as the pieces that are drawn: power and how long. */
export interface LoadPiece {
  watts: number;
  seconds: number;
}

interface Props {
  pieces: readonly LoadPiece[];
  onDrop: (pieces: LoadPiece[]) => void;
}

/** The load drawn as blocks whose tops are dragged, or moved by the arrow keys; a block is cut in two where one asks for it. */
export function LoadEditor({ pieces, onDrop }: Props) {
  const [ref, { width }] = useSize();
  const [now, setNow] = useState<LoadPiece[] | null>(null);
  const held = useRef<number | null>(null);
  const shown = now ?? pieces;
  const total = shown.reduce((sum, p) => sum + p.seconds, 0) || 1;
  const most = Math.max(...pieces.map((p) => p.watts), 1) * 1.4;
  const [top, height] = [8, 92];
  const x = (i: number) => (shown.slice(0, i).reduce((sum, p) => sum + p.seconds, 0) / total) * width;
  const y = (watts: number) => top + height - (Math.min(watts, most) / most) * height;
  const round = (watts: number) => Number(Math.max(0, watts).toPrecision(2));
  const put = (i: number, watts: number) => shown.map((p, k) => (k === i ? { ...p, watts: round(watts) } : p));
  const pulled = (event: PointerEvent<SVGElement>, i: number) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (box) setNow(put(i, ((top + height - (event.clientY - box.top)) / height) * most));
  };
  const keyed = (event: KeyboardEvent, i: number) => {
    const by = { ArrowUp: 0.05, ArrowDown: -0.05, PageUp: 0.2, PageDown: -0.2 }[event.key];
    const piece = shown[i];
    if (!piece) return;
    if (event.key === 'Insert' || event.key === '+') {
      event.preventDefault();
      onDrop(
        shown.flatMap((p, k) =>
          k === i
            ? [
                { ...p, seconds: p.seconds / 2 },
                { ...p, seconds: p.seconds / 2 },
              ]
            : [p],
        ),
      );
    } else if ((event.key === 'Delete' || event.key === '-') && shown.length > 1) {
      event.preventDefault();
      onDrop(shown.filter((_, k) => k !== i));
    } else if (by !== undefined) {
      event.preventDefault();
      event.stopPropagation();
      onDrop(put(i, piece.watts + by * Math.max(most, 1)));
    }
  };
  // Many pieces come from a file: those are looked at, not dragged.
  if (pieces.length > 24) return <p className="quiet text-note">{pieces.length} pieces: too many to draw; they stand below as text.</p>;
  return (
    <div ref={ref} className="w-full">
      {width > 0 && (
        <svg width={width} height={top + height + 20} className="touch-none" role="group" aria-label="The load, drawn">
          <line x1={0} x2={width} y1={top + height} y2={top + height} stroke="var(--color-ink)" />
          {shown.map((p, i) => (
            <g key={i}>
              <rect
                x={x(i)}
                width={Math.max(1, (p.seconds / total) * width - 1)}
                y={y(p.watts)}
                height={top + height - y(p.watts)}
                fill="var(--color-copper)"
                opacity={0.22}
              />
              <line x1={x(i)} x2={x(i) + (p.seconds / total) * width - 1} y1={y(p.watts)} y2={y(p.watts)} stroke="var(--color-copper)" strokeWidth={2.4} />
              <rect
                x={x(i)}
                width={Math.max(14, (p.seconds / total) * width)}
                y={Math.max(0, y(p.watts) - 20)}
                height={40}
                fill="transparent"
                style={{ cursor: 'ns-resize' }}
                tabIndex={0}
                role="slider"
                aria-label={`power of piece ${i + 1}`}
                aria-valuenow={p.watts}
                aria-valuetext={`${p.watts} W for ${Math.round(p.seconds)} s; plus cuts it in two, minus takes it out`}
                onPointerDown={(event) => {
                  event.currentTarget.setPointerCapture(event.pointerId);
                  held.current = i;
                }}
                onPointerMove={(event) => held.current === i && pulled(event, i)}
                onPointerUp={() => {
                  held.current = null;
                  if (now) onDrop(now);
                  setNow(null);
                }}
                onPointerCancel={() => {
                  held.current = null;
                  setNow(null);
                }}
                onDoubleClick={() =>
                  onDrop(
                    shown.flatMap((q, k) =>
                      k === i
                        ? [
                            { ...q, seconds: q.seconds / 2 },
                            { ...q, seconds: q.seconds / 2 },
                          ]
                        : [q],
                    ),
                  )
                }
                onKeyDown={(event) => keyed(event, i)}
              />
              {(p.seconds / total) * width > 62 && (
                <text className="mono axis-mark on-paper" x={x(i) + 4} y={top + height + 15} pointerEvents="none">
                  {p.watts} W
                </text>
              )}
            </g>
          ))}
        </svg>
      )}
      <p className="quiet text-note">Drag a top for its watts; a double click, or “+”, cuts a piece in two, “−” takes it out.</p>
    </div>
  );
}
