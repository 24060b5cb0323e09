import { useQuery } from '@tanstack/react-query';
import { answer, api, useReach, type Schemas } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { useKeepPart } from '../../job/useKeepPart';
import { isSized } from '../../methods';
import type { SizedMethod } from '../../methods/seam';
import { ReachPlot } from '../../methods/shared/ReachPlot';
import { Choice } from '../../ui/Choice';
import { FromFile } from '../../ui/FromFile';
import { ValueField } from '../../ui/ValueField';

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

type Analog = NonNullable<Typed['analog']>;
type Volts = keyof Analog;

/** Asked of a fan that is told its speed by a voltage. */
const TERMINALS: readonly [heading: string, fields: readonly (readonly [Volts, string, string])[]][] = [
  [
    'Speed over the control voltage, off its data',
    [
      ['on_v', 'starts from', '1.2 V'],
      ['off_v', 'stops below', '0.8 V'],
      ['low_v', 'rises from', '1.2 V'],
      ['high_v', 'full from', '9.6 V'],
      ['lag_s', 'follows after', '2 s'],
      ['ramp_per_s', 'soft start, a second', '10 %'],
    ],
  ],
  [
    'Its terminals',
    [
      ['input_ohm', 'input takes', '100k'],
      ['reference_v', 'its reference output', '10 V'],
      ['reference_a', 'gives at most', '10 mA'],
      ['aux_v', 'its sensor supply', '24 V'],
      ['aux_a', 'gives at most', '50 mA'],
      ['leakage_a', 'leaks to earth', '3.5 mA'],
      ['wait_min', 'link empty after', '5 min'],
    ],
  ],
];
/** What else is asked of such a fan. */
const OF_INPUT: readonly Name[] = ['slowest_rpm', 'most_v', 'fans'];

/** Speed over what the fan is told or fed, by the way it is aimed with. */
function OverCommand({ method }: { method: SizedMethod }) {
  const { page, frame } = useJobInHand();
  const reach = useReach(page, method);
  return <div className="h-[240px]">{reach.data && <ReachPlot reach={reach.data} frame={frame} />}</div>;
}

/** What is known of a fan with electronics of its own: its map, its leads, its supply. */
export function Commanded() {
  const { page, frame } = useJobInHand();
  const save = useKeepPart<Typed>('commanded', 'What is known of the fan');
  const found = useQuery({
    queryKey: ['commanded', page.job.id, page.saved_at],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs/{job_id}/commanded', { params: { path: { job_id: page.job.id } }, signal })),
    placeholderData: (before) => before,
  });
  if (!found.data) return <p className="quiet">Reading what is known of the fan…</p>;
  const { typed, grounds, moved, polarity } = found.data;
  const lead = page.sweep !== null;
  const input = page.control_input;
  const asked = (name: Name) => (input ? OF_INPUT.includes(name) : lead || !OF_LEAD.includes(name));
  const groups = GROUPS.map(([heading, fields]) => [heading, fields.filter(([name]) => asked(name))] as const).filter(([, fields]) => fields.length > 0);
  const analog = typed.analog;
  const tell = (edit: Analog, mine: string) => save({ analog: edit }, mine);
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
      {input && (
        <>
          <section aria-label="Volts and speeds off its data">
            <h3 className="heading text-body">Volts and speeds off its data</h3>
            <ValueField
              inputId="commanded-analog-pairs"
              label="volts and rpm, one pair a line; readings of this fan count before them"
              text={analog?.pairs ?? ''}
              hint={'1.2 V  300\n5 V  1430\n9.6 V  2800'}
              lines={3}
              onCommit={(pairs) => tell({ pairs }, 'pairs of its data sheet')}
            />
          </section>
          {TERMINALS.map(([heading, fields]) => (
            <section key={heading} aria-label={heading}>
              <h3 className="heading text-body">{heading}</h3>
              <div className="grid grid-cols-3 gap-x-4">
                {fields.map(([name, label, hint]) => (
                  <ValueField
                    key={name}
                    inputId={`commanded-analog-${name}`}
                    label={label}
                    text={analog?.[name] ?? ''}
                    hint={hint}
                    onCommit={(t) => tell({ [name]: t }, `${label} ${t}`)}
                  />
                ))}
              </div>
            </section>
          ))}
          <Choice
            label="more volts mean"
            value={analog?.sense ?? 'unknown'}
            options={['unknown', 'normal', 'inverse']}
            say={(o) => ({ unknown: 'nobody tried', normal: 'faster', inverse: 'slower' })[o] ?? o}
            onPick={(o) => void tell({ sense: o }, o)}
          />
          <Choice
            label="control wire off: it"
            value={analog?.open_input ?? 'stops'}
            options={['stops', 'holds', 'full']}
            say={(o) => ({ full: 'runs full', stops: 'stops', holds: 'runs slowest' })[o] ?? o}
            onPick={(o) => void tell({ open_input: o as NonNullable<Analog['open_input']> }, o)}
          />
        </>
      )}
      {groups.map(([heading, fields]) => (
        <section key={heading} aria-label={input ? 'The fan' : heading}>
          <h3 className="heading text-body">{input ? '' : heading}</h3>
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
      {!input && (
        <Choice
          label="the supply at its limit"
          value={typed.limit_kind ?? 'constant-current'}
          options={['constant-current', 'hiccup']}
          say={(o) => (o === 'hiccup' ? 'gives up and tries again' : 'holds its amps')}
          onPick={(o) => void save({ limit_kind: o as NonNullable<Typed['limit_kind']> }, o)}
        />
      )}
    </div>
  );
}
