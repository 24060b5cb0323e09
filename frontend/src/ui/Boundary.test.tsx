import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { Boundary } from './Boundary';

afterEach(cleanup);

it('keeps an error in its own part, says so, and tries again', () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined);
  let broken = true;
  function Stage() {
    if (broken) throw new Error('no such curve');
    return <p>the stage</p>;
  }
  render(
    <>
      <p>the rest of the page</p>
      <Boundary what="Size">
        <Stage />
      </Boundary>
    </>,
  );
  const alert = screen.getByRole('alert');
  expect(alert.textContent).toContain('Size cannot be shown just now.');
  expect(alert.textContent).toContain('no such curve');
  expect(screen.getByText('the rest of the page')).toBeTruthy();
  broken = false;
  fireEvent.click(screen.getByRole('button', { name: 'Try again' }));
  expect(screen.getByText('the stage')).toBeTruthy();
  expect(screen.queryByRole('alert')).toBeNull();
});
