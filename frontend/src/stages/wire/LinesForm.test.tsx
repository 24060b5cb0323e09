import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Problem } from '../../api/client';
import { LinesForm } from './LinesForm';

afterEach(cleanup);

const FIELDS = [
  { name: 'places', label: 'places', hint: 'unit, room', lines: 1 },
  { name: 'cables', label: 'cables', hint: 'W1: unit – room; red', lines: 3 },
] as const;
type Lists = Record<'places' | 'cables', string>;

function Form({ typed, onSend }: { typed: Lists; onSend: (typed: Lists) => Promise<Problem | null> }) {
  return <LinesForm of="lists" fields={FIELDS} typed={typed} press="Keep these" columns="" onSend={onSend} />;
}

const box = (label: string) => screen.getByLabelText<HTMLInputElement>(label);
const STANDS: Lists = { places: 'unit', cables: '' };

describe('a form of lines', () => {
  it('sends all of it, and shows what stands once that is kept', async () => {
    const send = vi.fn(() => Promise.resolve(null));
    const { rerender } = render(<Form typed={STANDS} onSend={send} />);
    fireEvent.change(box('places'), { target: { value: 'unit, room' } });
    fireEvent.click(screen.getByRole('button', { name: 'Keep these' }));
    expect(send).toHaveBeenCalledExactlyOnceWith({ places: 'unit, room', cables: '' });
    rerender(<Form typed={{ places: 'unit, hall', cables: '' }} onSend={send} />);
    await waitFor(() => expect(box('places').value).toBe('unit, hall'));
  });

  it('says what is refused beside its field, and loses nothing that was typed', async () => {
    const refused: Problem = { type: 'input', title: 'No', status: 422, field: 'cables', detail: 'leads nowhere', allowed: 'another place' };
    render(<Form typed={STANDS} onSend={() => Promise.resolve(refused)} />);
    fireEvent.change(box('cables'), { target: { value: 'W1: unit – unit; red' } });
    fireEvent.click(screen.getByRole('button', { name: 'Keep these' }));
    const alert = await screen.findByRole('alert');
    expect(alert.textContent).toContain('leads nowhere');
    expect(box('cables').getAttribute('aria-describedby')).toBe(alert.id);
    expect(box('cables').getAttribute('aria-invalid')).toBe('true');
    expect(box('cables').value).toBe('W1: unit – unit; red');
    expect(box('places').getAttribute('aria-invalid')).toBe('false');
  });

  it('keeps what is being typed when another window changes the rest', () => {
    const { rerender } = render(<Form typed={STANDS} onSend={() => Promise.resolve(null)} />);
    fireEvent.change(box('cables'), { target: { value: 'W1:' } });
    rerender(<Form typed={{ places: 'unit, roof', cables: 'W2: unit – roof; red' }} onSend={() => Promise.resolve(null)} />);
    expect(box('cables').value).toBe('W1:');
    expect(box('places').value).toBe('unit, roof');
  });
});
