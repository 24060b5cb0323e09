import { RadioGroup, Tabs } from 'radix-ui';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import type { Frame, Problem } from '../api/client';
import { unlessKept, useEdits } from '../api/save';
import { useJobInHand } from '../job/context';
import { Cautions } from '../ui/Cautions';
import { useTyped } from '../ui/typed';
import { ValueField } from '../ui/ValueField';
import { Pick } from '../ui/Pick';
import { useWho } from '../ui/who';
import { Why } from '../ui/Why';
import { isSized, SIZED, viewOf } from '../methods';
import { useSaveSteps } from '../job/steps';
import { Air } from './aim/Air';

const MOST = 8;
type Method = NonNullable<Frame['method']>;

/** The wanted steps, and the air they move. */
export default function Aim() {
  const [search, setSearch] = useSearchParams();
  const part = search.get('part') === 'air' ? 'air' : 'speeds';
  return (
    <Tabs.Root value={part} onValueChange={(p) => setSearch(p === 'air' ? { part: p } : {}, { replace: true })}>
      <Tabs.List aria-label="Parts of Aim" className="-mt-2 mb-2 flex gap-7">
        <Tabs.Trigger value="speeds" className="tab">
          speeds
        </Tabs.Trigger>
        <Tabs.Trigger value="air" className="tab">
          air
        </Tabs.Trigger>
      </Tabs.List>
      <Tabs.Content value="speeds" tabIndex={-1}>
        <Speeds />
      </Tabs.Content>
      <Tabs.Content value="air" tabIndex={-1}>
        <Air />
      </Tabs.Content>
    </Tabs.Root>
  );
}

/** The wanted speeds: typed here, or dragged on the staff. */
function Speeds() {
  const { page, frame, selected, onSelect, onClash } = useJobInHand();
  const wanted = page.job.wanted_rpm;
  const { who } = useWho();
  const saveJob = useEdits(page.job.id, onClash);
  const save = useSaveSteps();
  const [typed, setTyped, clear] = useTyped(`${page.job.id} new step`, '');
  const [count, setCount] = useState(wanted.length >= 2 ? wanted.length : 4);
  // The first look at a method solves the fan anew, which may take a moment.
  const [solving, setSolving] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  if (!frame.full) {
    return <p className="quiet">Speeds can be aimed for once full speed is known: {frame.missing.map((m) => m.text).join(', ')}.</p>;
  }
  const needs = isSized(frame.method) ? viewOf(frame.method).needs : { heading: 'needs', help: '' };
  const airy = frame.aims.some((a) => a.air_text || a.avoid_text);
  const offered = SIZED.filter((m) => m === frame.method || frame.sized.includes(m));
  // With a regulator chosen a step is the regulator's; these columns are of the exact value all the same.
  const why = (a: (typeof frame.aims)[number], what: string, text: string) =>
    text && !page.design && a.explained ? <Why of={`step:${a.step}:${what}`}>{text}</Why> : text;
  const reckonWith = async (method: Method) => {
    setSolving(true);
    const refused = await saveJob({
      kind: 'job',
      method: 'PATCH',
      path: `/api/jobs/${page.job.id}`,
      body: { sizing: { method }, who },
      versionField: 'version',
      from: page.job.version,
      replaces: { sizing: page.job.sizing },
      what: 'The method',
      mine: method,
    });
    setSolving(false);
    setProblem(unlessKept(refused));
  };
  const add = async () => {
    const refused = unlessKept(await save((now) => [...now, typed.trim()]));
    setProblem(refused);
    if (!refused) clear();
  };
  return (
    <div>
      {frame.aims.length === 0 ? (
        <p className="mb-3">
          Which speeds are wanted? Type the first one: rpm, per cent of full speed, or what the air is to do (700 m³/h, 22 K, 120 Pa, −10 dB). Full speed is{' '}
          <span className="mono">{frame.full.number}</span> rpm.
        </p>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full">
            <thead className="quiet text-left text-note">
              <tr>
                <th className="w-12 font-normal">step</th>
                <th className="w-40 pl-1 font-normal max-[1100px]:w-28">wanted</th>
                {/* The staff says it too, where room is short. */}
                <th className="pl-2 text-right font-normal max-[900px]:hidden">of full</th>
                <th className="pl-2 text-right font-normal">apart, rpm</th>
                {airy && <th className="pl-4 font-normal">air</th>}
                <th className="pl-2 text-right font-normal">{needs.heading}</th>
                <th className="pl-2 text-right font-normal">takes</th>
                <th className="pl-2 text-right font-normal">winding rise</th>
                <th className="pl-2 text-right font-normal">start torque</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {frame.aims.map((a, i) => (
                <tr key={i} className={`row-line align-middle ${a.step === selected ? 'bg-shade/60' : ''}`} onClick={() => onSelect(a.step)}>
                  <td className={`py-1 pl-2 text-title font-bold ${a.step === selected ? 'text-copper' : ''}`}>{a.step}</td>
                  <td className="min-w-24 py-1 pl-1 [&_label]:sr-only">
                    <ValueField
                      label={`step ${a.step}, rpm, % or air`}
                      text={a.meant || `${a.wanted.number} ${a.wanted.unit}`}
                      onCommit={(text) => save((now) => now.map((w, k) => (k === i ? text : w)))}
                      note={a.meant ? `${a.wanted.number} ${a.wanted.unit}` : ''}
                    />
                    {a.meant_text && (
                      <p className="text-note text-caution">
                        {a.meant_text}{' '}
                        <button type="button" className="link-button" onClick={() => void save((now) => now.map((w, k) => (k === i ? a.meant : w)))}>
                          take it
                        </button>
                      </p>
                    )}
                  </td>
                  <td className="mono pl-2 text-right whitespace-nowrap max-[900px]:hidden">{a.share_text}</td>
                  <td className="mono pl-2 text-right whitespace-nowrap">{a.gap_text}</td>
                  {airy && (
                    <td className="max-w-44 pl-4 text-note">
                      {a.air_text}
                      {a.avoid_text && <span className="block text-caution">△ {a.avoid_text}</span>}
                    </td>
                  )}
                  <td className="mono pl-2 text-right whitespace-nowrap">
                    {a.explained ? <Why of={`step:${a.step}:needed`}>{a.needed_text}</Why> : a.needed_text}
                    {a.reason && (
                      <span className="block font-sans text-note whitespace-normal text-copper">
                        {a.reason}
                        {a.nearest_rpm !== null && `; nearest ${Math.round(a.nearest_rpm)} rpm`}
                      </span>
                    )}
                  </td>
                  <td className="mono pl-2 text-right whitespace-nowrap">{why(a, 'watts', a.power_text)}</td>
                  <td className="mono pl-2 text-right whitespace-nowrap">{why(a, 'rise', a.rise_text && `${a.rise_text} ×`)}</td>
                  <td className="mono pl-2 text-right whitespace-nowrap">{a.start_text && <Why of={`step:${a.step}:start`}>{a.start_text}</Why>}</td>
                  <td className="pl-2 text-right whitespace-nowrap">
                    <button
                      type="button"
                      className="link-button"
                      aria-label={`take step ${a.step} away`}
                      onClick={(event) => {
                        event.stopPropagation();
                        void save((now) => now.filter((_, k) => k !== i)).then((p) => setProblem(unlessKept(p)));
                      }}
                    >
                      take away
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <div className="mt-2 flex flex-wrap items-end gap-4 border-t border-rule pt-2">
        <label className="block w-56">
          <span className="quiet block text-note">new step: rpm, %, m³/h, K, Pa, dB</span>
          <input
            id="aim-new"
            className="input mono"
            value={typed}
            disabled={wanted.length >= MOST}
            placeholder="202 or 61 %"
            aria-invalid={problem !== null}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter') void add();
            }}
          />
        </label>
        <button type="button" className="button" disabled={typed.trim() === '' || wanted.length >= MOST} onClick={() => void add()}>
          Add step
        </button>
        <div className="flex items-end gap-2">
          <label className="block">
            <span className="quiet block text-note">or even ones</span>
            <select className="input w-14!" aria-label="how many even steps" value={count} onChange={(e) => setCount(Number(e.target.value))}>
              {Array.from({ length: MOST - 1 }, (_, i) => (
                <option key={i} value={i + 2}>
                  {i + 2}
                </option>
              ))}
            </select>
          </label>
          <button type="button" className="button" onClick={() => void save({ even: count }).then((p) => setProblem(unlessKept(p)))}>
            {wanted.length > 0 ? 'even steps instead' : 'even steps'}
          </button>
        </div>
        {problem && (
          <p role="alert" className="text-copper">
            {problem.detail}
            {problem.allowed && <span className="quiet"> — {problem.allowed}</span>}
          </p>
        )}
        <p className="quiet ml-auto text-right text-body">{frame.aim_summary}</p>
      </div>
      {!page.design && (
        <div className="mt-3 flex flex-wrap items-center gap-5">
          <span className="quiet text-body">reckoned with</span>
          <RadioGroup.Root
            value={frame.method ?? ''}
            onValueChange={(v) => void reckonWith(v as Method)}
            aria-label="Reckoned with"
            className="flex flex-wrap gap-5"
          >
            {offered.map((m) => (
              <Pick key={m} value={m} text={viewOf(m).name} />
            ))}
          </RadioGroup.Root>
          <span role="status" className="quiet text-body">
            {solving && 'Solving the fan over all settings…'}
          </span>
        </div>
      )}
      <p className="quiet mt-3 text-body">
        Drag a notch on the staff, or move it with the arrow keys. {needs.help} “winding rise” is over the rise at full speed, an estimate; “start torque” is
        over break-away friction.
      </p>
      <div className="mt-3">
        <Cautions stage="aim" />
      </div>
    </div>
  );
}
