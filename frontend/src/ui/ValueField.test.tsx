import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Problem } from '../api/client';
import { ValueField } from './ValueField';

afterEach(() => {
  cleanup();
  localStorage.clear();
});

const refused: Problem = { type: 'input', title: 'No', status: 422, detail: 'is in volts; this field takes ohms', allowed: 'like 260' };

function shown(onCommit: (text: string) => Promise<Problem | null>, text = '260 Ω', onEnter?: () => void) {
  const view = render(<ValueField label="main winding" text={text} onCommit={onCommit} onEnter={onEnter} />);
  return { ...view, box: screen.getByLabelText<HTMLInputElement>('main winding') };
}

describe('a value field', () => {
  it('keeps on Enter what was typed, tidied, and once', async () => {
    const keep = vi.fn(() => Promise.resolve(null));
    const { box } = shown(keep);
    fireEvent.change(box, { target: { value: ' 1k2 ' } });
    fireEvent.keyDown(box, { key: 'Enter' });
    fireEvent.blur(box);
    await waitFor(() => expect(box.value).toBe('260 Ω'));
    expect(keep).toHaveBeenCalledExactlyOnceWith('1k2');
  });

  it('still has what was typed and not saved when it comes back, and saves it on Enter', async () => {
    const keep = vi.fn(() => Promise.resolve(null));
    const first = shown(keep);
    fireEvent.change(first.box, { target: { value: '26' } });
    first.unmount();
    expect(keep).not.toHaveBeenCalled();
    const { box } = shown(keep);
    expect(box.value).toBe('26');
    expect(screen.getByText(/not saved/)).toBeTruthy();
    fireEvent.keyDown(box, { key: 'Enter' });
    await waitFor(() => expect(keep).toHaveBeenCalledExactlyOnceWith('26'));
  });

  it('offers what was probably meant, and takes it at a press', async () => {
    const slip: Problem = { ...refused, detail: 'reads as 108 A, where about 110 mA is expected', meant: '108 mA' };
    const keep = vi.fn((text: string) => Promise.resolve(text === '108' ? slip : null));
    const { box } = shown(keep);
    fireEvent.change(box, { target: { value: '108' } });
    fireEvent.keyDown(box, { key: 'Enter' });
    fireEvent.click(await screen.findByRole('button', { name: '108 mA?' }));
    await waitFor(() => expect(keep).toHaveBeenLastCalledWith('108 mA'));
    await waitFor(() => expect(screen.queryByRole('alert')).toBeNull());
  });

  it('keeps what was typed while the one before was still on its way, and forgets what that was refused for', async () => {
    let answer: (problem: Problem | null) => void = () => undefined;
    const keep = vi.fn((text: string) => (text === 'soon' ? new Promise<Problem | null>((r) => (answer = r)) : Promise.resolve(null)));
    const { box } = shown(keep);
    fireEvent.change(box, { target: { value: 'soon' } });
    fireEvent.blur(box);
    fireEvent.change(box, { target: { value: '0.06' } });
    fireEvent.keyDown(box, { key: 'Enter' });
    expect(keep).toHaveBeenCalledExactlyOnceWith('soon');
    answer(refused);
    await waitFor(() => expect(keep).toHaveBeenLastCalledWith('0.06'));
    await waitFor(() => expect(box.value).toBe('260 Ω'));
    expect(screen.queryByRole('alert')).toBeNull();
  });

  it('keeps when it is left, and nothing where nothing changed', async () => {
    const keep = vi.fn(() => Promise.resolve(null));
    const { box } = shown(keep);
    fireEvent.blur(box);
    expect(keep).not.toHaveBeenCalled();
    fireEvent.change(box, { target: { value: '270' } });
    fireEvent.blur(box);
    await waitFor(() => expect(keep).toHaveBeenCalledWith('270'));
  });

  it('says beside itself why it was refused, and loses nothing', async () => {
    const { box } = shown(() => Promise.resolve(refused));
    fireEvent.change(box, { target: { value: '260 V' } });
    fireEvent.keyDown(box, { key: 'Enter' });
    expect((await screen.findByRole('alert')).textContent).toContain('is in volts; this field takes ohms — like 260');
    expect(box.value).toBe('260 V');
    expect(box.getAttribute('aria-invalid')).toBe('true');
    expect(document.getElementById(box.getAttribute('aria-describedby') ?? '')?.textContent).toContain('volts');
  });

  it('gives back on Escape what stands in the job', () => {
    const { box } = shown(() => Promise.resolve(null));
    fireEvent.change(box, { target: { value: 'oops' } });
    fireEvent.keyDown(box, { key: 'Escape' });
    expect(box.value).toBe('260 Ω');
  });

  it('goes on at once on Enter, also with nothing typed', () => {
    const on = vi.fn();
    const { box } = shown(() => Promise.resolve(null), '260 Ω', on);
    fireEvent.keyDown(box, { key: 'Enter' });
    expect(on).toHaveBeenCalledOnce();
  });

  it('saves with what was on screen when typing began, whatever arrives meanwhile', async () => {
    const [first, second] = [vi.fn(() => Promise.resolve(null)), vi.fn(() => Promise.resolve(null))];
    const { box, rerender } = shown(first);
    fireEvent.change(box, { target: { value: '270' } });
    rerender(<ValueField label="main winding" text="255 Ω" onCommit={second} />);
    fireEvent.blur(box);
    await waitFor(() => expect(first).toHaveBeenCalledWith('270'));
    expect(second).not.toHaveBeenCalled();
  });
});
