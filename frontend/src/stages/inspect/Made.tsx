import { useState } from 'react';
import type { Problem } from '../../api/client';
import { unlessKept } from '../../api/save';
import { Refusal } from '../../ui/Refusal';
import { ValueField } from '../../ui/ValueField';
import type { BuildEdit as Build, Save, Typed } from './api';

type Asked = { key: keyof Build; words: string; options: readonly (readonly [value: string | boolean, words: string])[]; of?: readonly string[] };

const YES_NO = [
  [true, 'yes'],
  [false, 'no'],
] as const;
const KNOBS = ['two-wire', 'three-wire'] as const;
const FIRED = [...KNOBS, 'opto'] as const;
const ASKED: readonly Asked[] = [
  {
    key: 'spindle',
    words: 'spindle',
    options: [
      ['plastic', 'plastic'],
      ['insulated', 'metal, insulated'],
      ['metal', 'metal'],
    ],
  },
  { key: 'grub_screw', words: 'screw in the knob can be touched', options: YES_NO },
  { key: 'plugged', words: 'on a plug with pins', options: YES_NO },
  {
    key: 'sense',
    words: 'just past the click',
    options: [
      ['fan', 'full, comes down'],
      ['dimmer', 'dark, comes up'],
    ],
    of: KNOBS,
  },
  {
    key: 'taper',
    words: "knob's law",
    options: [
      ['linear', 'linear'],
      ['log', 'log'],
      ['reverse-log', 'reverse log'],
    ],
    of: KNOBS,
  },
  { key: 'knob_on_solder', words: 'knob held by its solder alone', options: YES_NO, of: KNOBS },
  { key: 'wires_over_edge', words: 'wires pulled over a lug’s edge', options: YES_NO },
  { key: 'heat_sink', words: 'triac on a sink', options: YES_NO, of: FIRED },
  { key: 'tinned', words: 'load track tinned', options: YES_NO },
  { key: 'low_voltage_bare', words: 'low-voltage lead not behind the opto', options: YES_NO, of: ['opto'] },
  { key: 'taken_for_isolator', words: 'relied on to isolate', options: YES_NO, of: ['stepped'] },
];

/** How it is put together: what a look tells, besides values. */
export function Made({ typed, save }: { typed: Typed; save: Save }) {
  const [problem, setProblem] = useState<Problem | null>(null);
  const put = (build: Build, mine: string) => save({ build }, mine);
  const build = typed.build;
  return (
    <section aria-label="How it is put together" className="pt-2">
      <h3 className="heading">How it is put together</h3>
      <dl className="text-body">
        {ASKED.filter((a) => !a.of || a.of.includes(typed.topology)).map((a) => (
          <div key={a.key} className="row-line grid grid-cols-[minmax(0,1fr)_150px] items-center gap-2">
            <dt id={`made-${a.key}`}>{a.words}</dt>
            <dd>
              <select
                aria-labelledby={`made-${a.key}`}
                className="input"
                value={String(build[a.key] ?? '')}
                onChange={(e) => {
                  const picked = a.options.find(([value]) => String(value) === e.target.value);
                  void put({ [a.key]: picked ? picked[0] : null }, `${a.words}: ${picked ? picked[1] : 'not looked at'}`).then((p) =>
                    setProblem(unlessKept(p)),
                  );
                }}
              >
                {a.key !== 'taper' && <option value="">not looked at</option>}
                {a.options.map(([value, words]) => (
                  <option key={String(value)} value={String(value)}>
                    {words}
                  </option>
                ))}
              </select>
            </dd>
          </div>
        ))}
        <div className="row-line grid grid-cols-[minmax(0,1fr)_150px] items-start gap-2">
          <dt className="pt-2">narrowest track that carries the fan</dt>
          <dd>
            <ValueField bare label="narrowest track that carries the fan" text={build.track ?? ''} hint="0.3 mm" onCommit={(track) => put({ track }, track)} />
          </dd>
        </div>
        <div className="row-line grid grid-cols-[minmax(0,1fr)_150px] items-start gap-2">
          <dt className="pt-2">its copper</dt>
          <dd>
            <ValueField bare label="thickness of its copper" text={build.copper ?? ''} hint="35 µm" onCommit={(copper) => put({ copper }, copper)} />
          </dd>
        </div>
      </dl>
      <Refusal problem={problem} />
    </section>
  );
}
