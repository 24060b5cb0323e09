import { useQuery } from '@tanstack/react-query';
import { answer, api, useReach, type Problem, type Schemas } from '../../api/client';
import { useEdits } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { isSized } from '../../methods';
import type { SizedMethod } from '../../methods/seam';
import { ReachPlot } from '../../methods/shared/ReachPlot';
import { Choice } from '../../ui/Choice';
import { FromFile } from '../../ui/FromFile';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';

type Typed = Schemas['CommandEdit'];
type Name = keyof Typed;

const GROUPS: readonly [heading: string, fields: readonly (readonly [Name, string, string])[]][] = [
  [
    'Speed over duty, off its data',
    [
      ['slowest_rpm', 'slowest', '600 rpm'],
      ['least_duty', 'at a duty of', '20 %'],
      ['full_duty', 'fastest from', '100 %'],
      ['start_duty', 'starts at', '30 %'],
    ],
  ],
  [
    'Its leads',
    [
      ['pulses_per_rev', 'tachometer pulses a turn', '2'],
      ['most_v', 'bears at most', '13.2 V'],
      ['pull_up_ohm', 'pull-up of its control lead', '4k7'],
      ['pull_up_v', 'pulled up to', '5 V'],
      ['low_hz', 'takes from', '21 kHz'],
      ['high_hz', 'to', '28 kHz'],
    ],
  ],
  [
    'On a lower supply',
    [
      ['start_v', 'starts at', '6 V'],
      ['hold_v', 'holds down to', '4.2 V'],
      ['zero_speed_v', 'line meets no speed at', '1 V'],
      ['start_ratio', 'amps at rest over running', '2'],
    ],
  ],
  [
    'How many, and what feeds them',
    [
      ['fans', 'fans', '6'],
      ['groups', 'supplies they share', '2'],
      ['limit_a', 'each supply gives', '2 A'],
      ['lead_m', 'leads, one way', '3 m'],
      ['lead_mm2', 'of', '0.5 mm²'],
    ],
  ],
];

/** Asked only of a fan with a control lead. */
const OF_LEAD: readonly Name[] = ['slowest_rpm', 'least_duty', 'full_duty', 'start_duty', 'pull_up_ohm', 'pull_up_v', 'low_hz', 'high_hz'];

/** Speed over what the fan is told or fed, by the way it is aimed with. */
function OverCommand({ method }: { method: SizedMethod }) {
  const { page, frame } = useJobInHand();
  const reach = useReach(page, method);
  return <div className="h-[240px]">{reach.data && <ReachPlot reach={reach.data} frame={frame} />}</div>;
}

/** What is known of a fan with electronics of its own: its map, its leads, its supply. */
export function Commanded() {
  const { page, frame, onClash } = useJobInHand();
  const { who } = useWho();
  const keep = useEdits(page.job.id, onClash);
  const found = useQuery({
    queryKey: ['commanded', page.job.id, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/commanded', { params: { path: { job_id: page.job.id } }, signal })),
    placeholderData: (before) => before,
  });
  if (!found.data) return <p className="quiet">Reading what is known of the fan…</p>;
  const { typed, grounds, moved, polarity } = found.data;
  const save = (edit: Typed, mine: string): Promise<Problem | null> =>
    keep({
      kind: 'job',
      method: 'PATCH',
      path: `/api/jobs/${page.job.id}`,
      body: { commanded: edit, who },
      versionField: 'version',
      from: page.job.version,
      replaces: { commanded: page.job.commanded },
      what: 'What is known of the fan',
      mine,
    });
  const lead = page.sweep !== null;
  const groups = GROUPS.map(([heading, fields]) => [heading, fields.filter(([name]) => lead || !OF_LEAD.includes(name))] as const).filter(
    ([, fields]) => fields.length > 0,
  );
  const text = (name: Name) => {
    const value = typed[name];
    return typeof value === 'string' ? value : '';
  };
  const take = async (file: string, name: string) => {
    const read = await answer(
      api.POST('/api/jobs/{job_id}/commanded/import', {
        params: { path: { job_id: page.job.id } },
        body: file,
        bodySerializer: (body: string) => body,
        headers: { 'Content-Type': 'text/csv' },
      }),
    );
    return save({ pairs: read.pairs }, `a map from ${name}`);
  };
  return (
    <div className="space-y-1">
      {frame.full && isSized(frame.method) && <OverCommand method={frame.method} />}
      {grounds && <p className="quiet text-note first-letter:uppercase">{grounds}.</p>}
      {polarity && <p className="text-note">{polarity}</p>}
      {moved.map((m) => (
        <p key={m} className="text-note text-caution">
          △ {m}
        </p>
      ))}
      {lead && (
        <section aria-label="Pairs off its data sheet">
          <FromFile heading="Pairs off its data sheet" label="speed map file" take={take} />
          <ValueField
            inputId="commanded-pairs"
            label="duty and rpm, one pair a line; readings of this fan count before them"
            text={text('pairs')}
            hint={'20 %  600\n60 %  1500\n100 %  2400'}
            lines={4}
            onCommit={(pairs) => save({ pairs }, 'pairs of its data sheet')}
          />
        </section>
      )}
      {groups.map(([heading, fields]) => (
        <section key={heading} aria-label={heading}>
          <h3 className="heading text-body">{heading}</h3>
          <div className="grid grid-cols-3 gap-x-4">
            {fields.map(([name, label, hint]) => (
              <ValueField
                key={name}
                inputId={`commanded-${name}`}
                label={label}
                text={text(name)}
                hint={hint}
                onCommit={(t) => save({ [name]: t }, `${label} ${t}`)}
              />
            ))}
          </div>
        </section>
      ))}
      {lead && (
        <>
          <Choice
            label="below that duty it"
            value={typed.below ?? 'holds'}
            options={['holds', 'stops', 'full']}
            say={(o) => ({ holds: 'holds its slowest', stops: 'stops', full: 'runs full' })[o] ?? o}
            onPick={(o) => void save({ below: o as NonNullable<Typed['below']> }, o)}
          />
          <Choice
            label="more duty means"
            value={typed.sense ?? 'unknown'}
            options={['unknown', 'normal', 'inverted']}
            say={(o) => ({ unknown: 'nobody tried', normal: 'faster', inverted: 'slower' })[o] ?? o}
            onPick={(o) => void save({ sense: o }, o)}
          />
          <Choice
            label="control lead off: it"
            value={typed.open_lead ?? 'full'}
            options={['full', 'stops', 'holds']}
            say={(o) => ({ full: 'runs full', stops: 'stops', holds: 'runs slowest' })[o] ?? o}
            onPick={(o) => void save({ open_lead: o as NonNullable<Typed['open_lead']> }, o)}
          />
        </>
      )}
      <Choice
        label="the supply at its limit"
        value={typed.limit_kind ?? 'constant-current'}
        options={['constant-current', 'hiccup']}
        say={(o) => (o === 'hiccup' ? 'gives up and tries again' : 'holds its amps')}
        onPick={(o) => void save({ limit_kind: o as NonNullable<Typed['limit_kind']> }, o)}
      />
    </div>
  );
}
