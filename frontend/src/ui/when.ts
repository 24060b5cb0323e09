const FULL = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  hour12: false,
});
const CLOCK = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', hour12: false });

/** Day and time, in words that cannot be read as another day. */
export const when = (at: string | number) => FULL.format(new Date(at));
export const clock = (at: string) => CLOCK.format(new Date(at));

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
export const day = (on: string) => DAY.format(new Date(on));
