import { RadioGroup, Tabs } from 'radix-ui';
import { useEffect, useMemo, useState } from 'react';
import { problemOf, type Schemas } from '../../api/client';
import { unlessKept } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { useTyped } from '../../ui/typed';
import { Cautions } from '../../ui/Cautions';
import { Pick } from '../../ui/Pick';
import { Refusal } from '../../ui/Refusal';
import { Acceptance } from '../shared/Acceptance';
import { framedBy } from '../shared/beside';
import { Strays } from '../shared/Strays';
import { useDesign } from '../shared/useDesign';
import { AnglePlot } from './AnglePlot';
import { usePhase } from './api';
import { CaptureOver } from './CaptureOver';
import { chosenControl, same, USUAL } from './design';
import { FiringTable } from './FiringTable';
import { Knob } from './Knob';
import type { Control } from './query';
import { Steps } from './Steps';
import { TriacParts } from './TriacParts';
import { WavePlot } from './WavePlot';

/** A triac in the line: speed over its angle, the waves of a step, what fires it, its parts; chosen here. */
export default function Sizer() {
  const { page } = useJobInHand();
  // Another design has another view: what was typed for one is not carried into the next.
  return <Control key={page.design?.id ?? 0} />;
}

function Control() {
  const { page, frame: whole, selected, onSelect, draft, setDraft } = useJobInHand();
  const frame = framedBy(whole, 'phase-angle');
  const { keep: keepDesign, saveJob, problem, setProblem } = useDesign();
  const chosen = chosenControl(page);
  // What differs from what is chosen; null: nothing.
  const [edit, setEdit, clearEdit] = useTyped<Control | null>(`${page.job.id} phase-angle ${page.last_revision}`, null);
  const [tab, setTab] = useState('steps');
  const [name, setName] = useState('');
  const [over, setOver] = useState<Schemas['CaptureShown'] | null>(null);
  const asked = useMemo(() => edit ?? chosen ?? USUAL, [chosen, edit]);
  const tried = edit !== null || chosen === null;
  const found = usePhase(page, selected || 1, asked);
  // What was computed last stays on screen while something typed cannot be used.
  const [last, setLast] = useState<Schemas['PhaseShown'] | null>(null);
  if (found.data && found.data !== last) setLast(found.data);
  const shown = found.data ?? last;

  // The staff and the path show what stands on this view; a drag that is under way goes first.
  const idle = draft === null;
  useEffect(() => {
    if (tried && idle && shown) setDraft({ design: asked });
  }, [asked, idle, setDraft, shown, tried]);
  useEffect(() => () => setDraft(null), [setDraft]);

  const change = (part: Partial<Control>) => {
    const next = { ...asked, ...part };
    // With another knob, or held instead of started, the same speeds lie elsewhere.
    const moved = ('fired_by' in part || 'kick' in part || 'network' in part) && !('angles' in part);
    const typed = !same(asked.angles, chosen?.angles ?? []);
    const made = moved && !typed ? { ...next, angles: [] } : next;
    setDraft(null);
    if (chosen && same(made, chosen)) clearEdit();
    else setEdit(made);
  };

  async function keep(): Promise<void> {
    const refused = await keepDesign(asked, {
      what: 'The phase-angle control',
      mine: `${asked.fired_by === 'knob' ? 'knob and diac' : 'microcontroller'} ${(asked.angles ?? []).join(', ')}`,
      name,
    });
    if (!unlessKept(refused)) {
      clearEdit();
      setName('');
    }
  }

  if (!shown) {
    return found.error ? <Refusal problem={problemOf(found.error)} /> : <p className="quiet">Solving triac and motor over all angles…</p>;
  }
  const wrong = problem ?? (found.error ? problemOf(found.error) : null);
  const missed = frame.rules.filter((r) => !r.met).length;
  return (
    <div>
      <div className="grid h-[max(250px,30vh)] grid-cols-2 gap-6 max-[900px]:h-[520px] max-[900px]:grid-cols-1">
        <AnglePlot shown={shown} selected={selected} onSelect={onSelect} />
        {shown.wave ? (
          <WavePlot wave={shown.wave} over={over} aside={<CaptureOver key={selected} step={selected} setOver={setOver} />} />
        ) : (
          <p className="quiet self-center">No waveform: {shown.steps.find((s) => s.step === selected)?.reason || 'choose a step that runs'}.</p>
        )}
      </div>
      <div className="mt-1 flex shrink-0 flex-wrap items-center gap-x-6 border-t border-rule pt-1">
        <RadioGroup.Root
          value={asked.fired_by}
          onValueChange={(v) => change({ fired_by: v as Control['fired_by'] })}
          aria-label="Fired by"
          className="flex gap-5"
        >
          <Pick value="knob" text="knob with diac" />
          <Pick value="table" text="microcontroller" />
        </RadioGroup.Root>
        <label className="flex min-h-10 items-center gap-2">
          <input type="checkbox" className="size-5" checked={asked.kick} onChange={(e) => change({ kick: e.target.checked })} />
          {asked.fired_by === 'knob' ? 'switched on at the fast end' : 'kicked at full first'}
        </label>
        <span className="ml-auto flex flex-wrap items-center gap-4">
          {tried && (
            <input
              className="input w-44"
              value={name}
              maxLength={120}
              placeholder="a name, if it needs one"
              aria-label="name of this design"
              onChange={(e) => setName(e.target.value)}
            />
          )}
          {edit && chosen && (
            <button type="button" className="link-button" onClick={() => (clearEdit(), setDraft(null), setProblem(null))}>
              drop changes
            </button>
          )}
          {tried ? (
            <button type="button" className="button" onClick={() => void keep()}>
              {chosen ? 'Keep this control' : 'Use phase angle'}
            </button>
          ) : (
            <span className="text-lead">
              ● {page.design?.name || 'chosen'}, revision {page.design?.revision}
            </span>
          )}
        </span>
      </div>
      <Refusal problem={wrong} className="" />
      {page.design && !chosen && (
        <p className="quiet text-note">
          Tried only: this job is regulated by {page.design.method_name}. While you are here the staff and the path show the triac.
        </p>
      )}
      <Tabs.Root value={tab} onValueChange={setTab} className="mt-1">
        <Tabs.List className="sticky -top-3 z-10 flex gap-6 overflow-x-auto bg-paper border-b border-rule max-[1100px]:gap-4" aria-label="About phase angle">
          {[
            ['steps', 'Steps'],
            ['knob', 'Knob and diac'],
            ['table', 'Firing table'],
            ['parts', 'Parts'],
            ['strays', 'Straying'],
            ['acceptance', 'Acceptance'],
            ['crude', 'Cruder estimates'],
          ].map(([key, text]) => (
            <Tabs.Trigger key={key} value={key ?? ''} className="tab -mb-px whitespace-nowrap">
              {text}
              {key === 'acceptance' && missed > 0 && <span className="text-copper">△ {missed}</span>}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <Tabs.Content value="steps" className="min-h-[180px] pt-1">
          <Steps shown={shown} asked={asked} selected={selected} onSelect={onSelect} change={change} />
        </Tabs.Content>
        <Tabs.Content value="knob" className="min-h-[180px] pt-1">
          <Knob page={page} asked={asked} change={change} />
        </Tabs.Content>
        <Tabs.Content value="table" className="min-h-[180px] pt-1">
          <FiringTable page={page} asked={asked} change={change} />
        </Tabs.Content>
        <Tabs.Content value="parts" className="min-h-[180px] pt-1">
          <TriacParts shown={shown} asked={asked} problem={wrong} change={change} explained={!tried} />
        </Tabs.Content>
        <Tabs.Content value="strays" className="min-h-[180px]">
          <Strays frame={frame} noun="phase-angle control" tried={tried} />
        </Tabs.Content>
        <Tabs.Content value="acceptance" className="min-h-[180px]">
          <Acceptance frame={frame} noun="phase-angle control" save={(profile) => saveJob({ profile }, 'The acceptance profile')} />
        </Tabs.Content>
        <Tabs.Content value="crude" className="min-h-[180px] pt-1">
          <Crude shown={shown} />
        </Tabs.Content>
      </Tabs.Root>
      <div className="mt-2 border-t border-rule pt-1">
        <Cautions stage="size" brief />
      </div>
    </div>
  );
}

function Crude({ shown }: { shown: Schemas['PhaseShown'] }) {
  return (
    <div>
      <p className="quiet text-body">What people reckon with instead, and by how much the speed then misses the solved one.</p>
      <table className="mt-1 max-w-[760px] text-body">
        <thead className="quiet text-note">
          <tr>
            <th className="pr-8 text-left font-normal">firing angle</th>
            {shown.crude_deg.map((d) => (
              <th key={d} className="mono w-20 text-right font-normal">
                {d.toFixed(0)}°
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.crude.map((c) => (
            <tr key={c.name} className="row-line">
              <td className="py-1 pr-8">{c.name}</td>
              {c.misses.map((m, i) => (
                <td key={i} className="mono text-right">
                  {m}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
