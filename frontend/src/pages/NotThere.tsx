import { Link } from 'react-router';

export function NotThere({ text = 'There is nothing at this address.' }: { text?: string }) {
  return (
    <main className="mx-auto max-w-xl p-10">
      <p className="heading mb-3">{text}</p>
      <Link className="button inline-flex items-center" to="/">
        To the Bench
      </Link>
    </main>
  );
}
