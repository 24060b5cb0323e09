import { Link } from 'react-router';
import { useJobInHand } from '../../job/context';
import { useWire } from './api';

/** How far the wiring has come, for those who sign: the same lists as in Wire, counted. */
export function Standing() {
  const { page } = useJobInHand();
  const wire = useWire(page).data;
  if (!wire?.sheet) return null;
  const job = `/jobs/${page.job.id}/wire`;
  const ticked = wire.connections.filter((c) => c.read.text === 'yes').length;
  const read = wire.dead.filter((d) => d.read.text);
  const odd = read.filter((d) => d.read.agreement === 'contradicts').length;
  const seen = wire.rows.filter((r) => r.read.text === 'yes').length;
  const failed = wire.rows.filter((r) => r.read.text === 'no').length;
  const dangers = wire.hazards.filter((h) => h.severity === 'danger').length;
  return (
    <section aria-label="The wiring" className="mt-3 text-body">
      <h2 className="heading">The wiring</h2>
      {!page.design && (
        <img src={`/api${job}/drawing.svg?at=${encodeURIComponent(page.saved_at)}`} alt={`Circuit: ${wire.title}`} className="my-2 max-h-[320px]" />
      )}
      <ul>
        <Line to={`${job}?part=connections`} odd={ticked < wire.connections.length} text={`${ticked} of ${wire.connections.length} wires laid`} />
        <Line
          to={`${job}?part=dead`}
          odd={odd > 0}
          text={`${read.length} of ${wire.dead.length} dead tests read${odd ? `, ${odd} contradict` : read.length ? ', none contradicts' : ''}`}
        />
        <Line
          to={`${job}?part=dead`}
          odd={failed > 0 || seen < wire.rows.length}
          text={`${seen} of ${wire.rows.length} rows seen live${failed ? `, ${failed} not as they should be` : ''}`}
        />
        {dangers > 0 && <Line to={job} odd text={`${dangers} dangers stand in the circuit`} />}
        {wire.problems.map((p) => (
          <Line key={p} to={`${job}?part=connections`} odd text={p} />
        ))}
      </ul>
    </section>
  );
}

function Line({ to, text, odd }: { to: string; text: string; odd: boolean }) {
  return (
    <li className="row-line flex min-h-9 items-center">
      <Link to={to} className={`link-button ${odd ? 'text-copper' : ''}`}>
        {odd ? '△ ' : ''}
        {text}
      </Link>
    </li>
  );
}
