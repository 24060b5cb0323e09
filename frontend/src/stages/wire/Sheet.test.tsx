import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Schemas } from '../../api/client';
import { Sheet, type Lit } from './Sheet';

afterEach(cleanup);

const pin = (terminal: string, y: number, left: boolean, net: string) => ({ terminal, name: terminal.split('.')[1] ?? '', x: left ? 200 : 100, y, left, net });
const SHEET: Schemas['SheetShown'] = {
  width: 400,
  height: 120,
  boxes: [
    { part: 'S', kind: 'supply', words: 'supply', x: 0, y: 0, width: 100, height: 60, pins: [pin('S.L', 30, false, 'line')], blades: [] },
    {
      part: 'SW',
      kind: 'switch',
      words: 'switch',
      x: 200,
      y: 0,
      width: 100,
      height: 80,
      pins: [pin('SW.1', 30, true, 'line'), pin('SW.2', 50, true, '')],
      blades: [{ key: 'SW.1|SW.2', x1: 200, y1: 30, x2: 200, y2: 50 }],
    },
  ],
  runs: [{ net: 'line', purpose: 'line', pieces: [{ x1: 100, y1: 30, x2: 200, y2: 30 }], dots: [] }],
};
const DARK: Lit = { closed: [], alive: [], hot: [], on: [] };
const wire = (svg: Element) => svg.querySelector('line[stroke-linecap="square"]');
const widest = (svg: Element) => Number(wire(svg)?.getAttribute('stroke-width'));

describe('the drawing of a circuit', () => {
  it('shows by weight and colour what is alive', () => {
    const { container, rerender } = render(<Sheet sheet={SHEET} lit={DARK} label="Circuit" />);
    const rest = widest(container);
    rerender(<Sheet sheet={SHEET} lit={{ ...DARK, alive: ['line'] }} label="Circuit" />);
    expect(widest(container)).toBeGreaterThan(2 * rest);
    expect(wire(container)?.getAttribute('stroke')).toContain('copper');
  });

  it('says a hazard on itself, however low its words stand', () => {
    const flag = { lines: ['a short', 'for a moment'], x: 10, y: 140, width: 120, height: 50, to_x: 150, to_y: 30 };
    render(<Sheet sheet={SHEET} lit={DARK} label="Circuit" flags={[flag]} />);
    expect(screen.getByText('for a moment')).toBeTruthy();
    const [, , width, height] = (screen.getByRole('img').getAttribute('viewBox') ?? '').split(' ').map(Number);
    expect(width).toBe(400);
    expect(height).toBeGreaterThanOrEqual(190);
  });

  it('never draws its letters smaller than eleven pixels', () => {
    render(<Sheet sheet={SHEET} lit={DARK} label="Circuit" />);
    const svg = screen.getByRole('img');
    const scale = parseFloat(svg.style.minWidth) / SHEET.width;
    const sizes = [...svg.querySelectorAll('text')].map((t) => Number(t.getAttribute('font-size')));
    expect(Math.min(...sizes) * scale).toBeGreaterThanOrEqual(11);
  });

  it('takes a press on a terminal', () => {
    const pressed = vi.fn();
    const { container } = render(<Sheet sheet={SHEET} lit={DARK} label="Circuit" onPin={pressed} />);
    const target = container.querySelectorAll('rect[fill="transparent"]')[1];
    if (target) fireEvent.click(target);
    expect(pressed).toHaveBeenCalledExactlyOnceWith('SW.1');
  });
});
