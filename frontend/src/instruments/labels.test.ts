import { describe, expect, it } from 'vitest';
import { APART, LEAST_APART, placeLabels } from './labels';

const heights = (at: number[], top = 20) => {
  const placed = placeLabels(
    at.map((y, i) => ({ step: i + 1, at: y })),
    top,
  );
  return at.map((_, i) => placed.get(i + 1) ?? NaN);
};

describe('labels beside the staff', () => {
  it('stay where they belong while there is room', () => {
    expect(heights([600, 400, 200, 90])).toEqual([600, 400, 200, 90]);
  });

  it('move up from the one below, in the order of their speeds', () => {
    const found = heights([300, 298, 296]);
    expect(found[0]).toBe(300);
    for (let i = 1; i < 3; i++) expect((found[i - 1] ?? 0) - (found[i] ?? 0)).toBeGreaterThanOrEqual(APART);
  });

  it('never leave the top, however many crowd there', () => {
    const found = heights([60, 58, 56, 54, 52]);
    const up = [...found].sort((a, b) => a - b);
    expect(Math.min(...found)).toBeGreaterThanOrEqual(20);
    for (let i = 1; i < up.length; i++) expect((up[i] ?? 0) - (up[i - 1] ?? 0)).toBeGreaterThanOrEqual(LEAST_APART);
  });

  it('are none for no marks', () => {
    expect(placeLabels([], 20).size).toBe(0);
  });
});
