import { useState } from 'react';
import { useIdentify, type Problem, type Schemas } from '../../api/client';
import { readingEdit, unlessKept, useEdits } from '../../api/save';
import { useJobInHand } from '../../job/context';
import { fieldId, useGo } from '../../job/spot';
import { Cautions } from '../../ui/Cautions';
import { ValueField } from '../../ui/ValueField';
import { useWho } from '../../ui/who';
import { useFindings } from './findings';
import { LeadTree } from './LeadTree';

type Wanted = Schemas['Wanted'];
type Lead = Schemas['LeadEdit'];

const SWATCH: Record<string, string> = {
  white: '#ffffff',
  black: '#1b1b1b',
  blue: '#2f6fb5',
  red: '#b3342f',
  brown: '#7a4a2b',
  yellow: '#e0c53a',
  green: '#3f8a4f',
  grey: '#8c8c8c',
  gray: '#8c8c8c',
  orange: '#d9792b',
  purple: '#6d4a92',
  violet: '#6d4a92',
  pink: '#d98aa4',
};

/** Ohms between leads, typed as they are probed; the winding grows beside them. */
export function Leads() {
  const { page, onClash } = useJobInHand();
  const { who } = useWho();
  const found = useIdentify(page);
  const keep = useFindings();
  const save = useEdits(page.job.id, onClash);
  const go = useGo(page.job.id);
  const [problem, setProblem] = useState<Problem | null>(null);
  const leads = page.findings.leads ?? [];
  const shown = found.data?.leads;
  const asked = new Map(page.sheet_readings.map((w) => [w.quantity, w]));
  const cells = new Map((shown?.cells ?? []).map((c) => [c.quantity, c]));
  const frames = page.sheet_readings.filter((w) => w.quantity.startsWith('frame_ohm:'));
  const colours = new Map(leads.filter((l) => l.colour).map((l) => [l.name, l.colour ?? '']));
  const best = shown?.trees[0];

  const setLeads = (next: Lead[], mine: string) => keep({ leads: next }, mine).then((p) => (setProblem(unlessKept(p)), p));
  const take = (w: Wanted, text: string) => save(readingEdit(page.job.id, w.label, text, w.quantity, null, who, w.reading_id));

  function arrow(row: number, column: number, key: string): boolean {
    const [r, c] =
      key === 'ArrowUp' ? [row - 1, column] : key === 'ArrowDown' ? [row + 1, column] : key === 'ArrowLeft' ? [row, column - 1] : [row, column + 1];
    const [a, b] = [leads[r], leads[c]];
    const to = a && b && r < c ? document.getElementById(cellId(`lead_ohm:${a.key ?? ''}:${b.key ?? ''}`)) : null;
    to?.focus();
    return Boolean(to);
  }

  if (leads.length === 0) {
    return (
      <section aria-label="Leads" className="max-w-[560px]">
        <h2 className="heading mb-1">Which lead is which</h2>
        <p className="quiet mb-3">Count the leads that come out of the winding, earth left out. Ohms between them show which is which; no diagram is needed.</p>
        <div className="flex flex-wrap gap-3">
          {[3, 4, 5, 6].map((n) => (
            <button key={n} type="button" className="button" onClick={() => void setLeads(fresh(n), `${n} leads`)}>
              {n} leads
            </button>
          ))}
        </div>
        {problem && (
          <p role="alert" className="mt-2 text-copper">
            {problem.detail}
          </p>
        )}
      </section>
    );
  }
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.12fr)] gap-8 max-[1000px]:grid-cols-1">
      <section aria-label="Lead sheet" className="min-w-0">
        <div className="mb-2 empty:hidden">
          <Cautions stage="identify" part="first" only={['isolate', 'stored-charge']} />
        </div>
        <h2 className="heading">Ohms between leads</h2>
        <p className="quiet text-note">One probe stays, the other walks; Enter goes on; “open” is a reading. Read warm, write “21.5 warm”.</p>
        <table className="mt-1 border-collapse" aria-label="Lead sheet">
          <thead>
            <tr>
              <th className="w-16" aria-label="lead" />
              {leads.slice(1).map((l) => (
                <th key={l.key} scope="col" className="px-1 text-left font-normal">
                  <LeadName lead={l} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {leads.slice(0, -1).map((a, row) => (
              <tr key={a.key}>
                <th scope="row" className="pr-2 text-left font-normal">
                  <LeadName lead={a} />
                </th>
                {leads.slice(1).map((b, i) => {
                  const column = i + 1;
                  if (column <= row) return <td key={b.key} />;
                  const quantity = `lead_ohm:${a.key ?? ''}:${b.key ?? ''}`;
                  const w = asked.get(quantity);
                  const cell = cells.get(quantity);
                  if (!w) return <td key={b.key} />;
                  return (
                    <td key={b.key} className={`w-[76px] px-1 align-top ${cell?.bad ? 'bg-shade' : ''}`}>
                      <ValueField
                        bare
                        inputId={cellId(quantity)}
                        label={`ohms ${w.label}`}
                        text={w.text}
                        disabled={w.gated_by !== null && w.text === ''}
                        onCommit={(text) => take(w, text)}
                        onArrow={(key) => arrow(row, column, key)}
                      />
                      <p className={`-mt-0.5 h-4 text-note leading-4 ${cell?.bad ? 'font-semibold text-copper' : 'quiet'}`}>
                        {cell?.bad ? (
                          'read again'
                        ) : cell?.wanted ? (
                          <span className="font-semibold text-copper">next</span>
                        ) : cell?.expected_text ? (
                          `tree ${cell.expected_text}`
                        ) : (
                          (cell?.residual_text ?? '')
                        )}
                      </p>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
        <div role="group" aria-label="To frame" className="mt-2 flex flex-wrap gap-x-2 border-t border-rule pt-1">
          {frames.map((w, i) => (
            <div key={w.quantity} className="w-[74px]">
              <ValueField
                label={`${leads[i]?.name ?? ''} to frame`}
                inputId={cellId(w.quantity)}
                text={w.text}
                disabled={w.gated_by !== null && w.text === ''}
                onCommit={(text) => take(w, text)}
              />
            </div>
          ))}
        </div>
        <details className="mt-2">
          <summary className="quiet min-h-9 cursor-pointer py-2 text-body">names, what is seen, colours, test leads</summary>
          <div className="grid grid-cols-[repeat(auto-fill,minmax(250px,1fr))] gap-x-4">
            {leads.map((l, i) => (
              <div key={l.key} className="flex items-end gap-2">
                <div className="w-14">
                  <ValueField
                    inputId={`lead-name-${l.key ?? ''}`}
                    label="lead"
                    text={l.name}
                    mono={false}
                    onCommit={(name) =>
                      setLeads(
                        leads.map((o, j) => (i === j ? { ...o, name } : o)),
                        name,
                      )
                    }
                  />
                </div>
                <label className="block w-24">
                  <span className="quiet block text-note">seen wired to</span>
                  <select
                    className="input"
                    aria-label={`lead ${l.name}, seen wired to`}
                    value={l.seen ?? ''}
                    onChange={(e) =>
                      void setLeads(
                        leads.map((o, j) => (i === j ? { ...o, seen: e.target.value } : o)),
                        e.target.value,
                      )
                    }
                  >
                    <option value="">not seen</option>
                    <option value="common">common</option>
                    <option value="capacitor">capacitor</option>
                    <option value="tap">a speed contact</option>
                  </select>
                </label>
                <div className="min-w-0 flex-1">
                  <ValueField
                    inputId={`lead-colour-${l.key ?? ''}`}
                    label="colour"
                    text={l.colour ?? ''}
                    mono={false}
                    onCommit={(colour) =>
                      setLeads(
                        leads.map((o, j) => (i === j ? { ...o, colour } : o)),
                        colour,
                      )
                    }
                  />
                </div>
              </div>
            ))}
            <ValueField label="probes shorted, taken off" text={page.findings.probe ?? ''} hint="0.2" onCommit={(probe) => keep({ probe }, probe)} />
          </div>
          <div className="flex gap-4">
            {leads.length < 8 && (
              <button
                type="button"
                className="link-button"
                onClick={() => void setLeads([...leads, { key: '', name: freeName(leads), colour: '', seen: '' }], 'one more lead')}
              >
                one more lead
              </button>
            )}
            {leads.length > 2 && (
              <button type="button" className="link-button" onClick={() => void setLeads(leads.slice(0, -1), 'one lead less')}>
                take {leads[leads.length - 1]?.name} off
              </button>
            )}
          </div>
          <p className="quiet text-note">Colours are weak evidence: they vary from maker to maker. What is seen of a wire counts.</p>
        </details>
        {problem && (
          <p role="alert" className="text-note text-copper">
            {problem.detail}
          </p>
        )}
      </section>
      <section aria-label="The winding" aria-live="polite" className="min-w-0">
        {shown?.stop && (
          <p role="alert" className="mb-2 border-l-4 border-hazard bg-shade px-3 py-2 font-semibold">
            Stop. {shown.stop}
          </p>
        )}
        {shown?.contradictions.map((c) => (
          <p key={c} role="alert" className="mb-1 border-l-4 border-copper pl-3 text-copper">
            {c}.
          </p>
        ))}
        {best ? (
          <>
            <LeadTree tree={best} colours={colours} />
            <ul className="mt-1 text-body">
              {best.reasons.slice(0, 2).map((r) => (
                <li key={r}>{r[0]?.toUpperCase() + r.slice(1)}.</li>
              ))}
              <li>
                <strong>{best.share_text} sure</strong>: {[best.residual_text, ...best.reasons.slice(2)].join(', ')}.
              </li>
            </ul>
            {shown.roles.some((r) => r.share_text !== SURE) && (
              <p className="quiet text-body">How sure: {shown.roles.map((r) => `${r.lead} ${r.role} ${r.share_text}`).join(' · ')}</p>
            )}
            {best.other_text && <p className="quiet text-body">Else {best.other_text}.</p>}
            {shown.trees.length > 1 && (
              <p className="quiet text-body">
                Also fits:{' '}
                {shown.trees
                  .slice(1)
                  .map((t) => `${t.roles_text || 'no roles'} (${t.share_text}; ${t.sections.map((s) => `${s.start}–${s.end} ${s.ohm_text}`).join(', ')})`)
                  .join(' · ')}
              </p>
            )}
          </>
        ) : (
          <p className="quiet">The winding is drawn as the readings come.</p>
        )}
        {shown?.joined_text && <p className="mt-1 text-body">{shown.joined_text}.</p>}
        {shown?.next_text && (
          <p className="mt-2 border-l-2 border-copper pl-3 font-semibold">
            {shown.next_text}{' '}
            {shown.next_spot && (
              <button type="button" className="link-button" onClick={() => shown.next_spot && void go(shown.next_spot)}>
                read it
              </button>
            )}
          </p>
        )}
        {shown?.frame_text && <p className="quiet mt-1 text-body">Insulation: {shown.frame_text}.</p>}
        <Taps sheet={found.data?.taps ?? null} waits={found.data?.waits ?? ''} />
      </section>
    </div>
  );
}

/** The server says no more than this of anything. */
const SURE = '99 %';

const BRANCH = { 'whole-supply': 'start across the supply', 'main-section': 'start across main only' } as const;

function Taps({ sheet, waits }: { sheet: Schemas['TapSheet'] | null; waits: string }) {
  const keep = useFindings();
  const { page } = useJobInHand();
  const gauge = page.findings.gauge ?? [];
  if (!sheet) return waits ? <p className="quiet mt-3 text-body">{waits[0]?.toUpperCase() + waits.slice(1)}.</p> : null;
  return (
    <div className="mt-3">
      <div className="flex items-baseline justify-between gap-4">
        <h2 className="heading">Taps, before power is applied</h2>
        <label className="text-note">
          <span className="quiet">start branch </span>
          <select
            className="input w-auto!"
            value={page.findings.start_branch ?? ''}
            onChange={(e) => void keep({ start_branch: e.target.value }, 'the start branch')}
          >
            <option value="">not known</option>
            <option value="whole-supply">across the supply</option>
            <option value="main-section">across main only</option>
          </select>
        </label>
      </div>
      <table className="w-full text-body">
        <thead className="quiet text-left text-note">
          <tr>
            <th className="font-normal">tap</th>
            <th className="font-normal">turns</th>
            {sheet.branches.map((b) => (
              <th key={b} className="w-[150px] text-right font-normal">
                {BRANCH[b]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sheet.rows.map((r) => (
            <tr key={r.role} className="row-line">
              <td className="py-1 whitespace-nowrap">
                <strong>{r.lead}</strong> {r.role}
              </td>
              <td className="quiet">
                {r.turns_text}
                {r.extra_text && <span className="block text-note">{r.extra_text} more</span>}
              </td>
              {r.speeds.map((s) => (
                <td key={s.branch} className="mono py-1 text-right whitespace-nowrap">
                  {s.speed ? `${s.speed.number} rpm` : 'does not start'}
                  {s.speed && s.amps && (
                    <span className="quiet block text-note">
                      {s.amps.number} {s.amps.unit}
                    </span>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet mt-1 text-note">{sheet.note}</p>
      <details>
        <summary className="quiet min-h-9 cursor-pointer py-2 text-body">thicker or thinner wire in a tap section</summary>
        <div className="flex flex-wrap gap-x-4">
          {sheet.rows.slice(1).map((r, i) => (
            <div key={r.role} className="w-[170px]">
              <ValueField
                label={`turns for each ohm, ${r.role}`}
                text={gauge[i] ?? ''}
                hint="1: as the main winding"
                onCommit={(text) => keep({ gauge: sheet.rows.slice(1).map((_, j) => (i === j ? text : (gauge[j] ?? '')) || '1') }, text)}
              />
            </div>
          ))}
        </div>
      </details>
      {sheet.alive_text && <p className="mt-1 border-l-2 border-hazard pl-2 text-note">{sheet.alive_text[0]?.toUpperCase() + sheet.alive_text.slice(1)}.</p>}
    </div>
  );
}

function LeadName({ lead }: { lead: Lead }) {
  const swatch = SWATCH[(lead.colour ?? '').toLowerCase()];
  return (
    <span className="whitespace-nowrap">
      {swatch && <span aria-hidden="true" className="mr-1 inline-block size-3 border border-ink align-[-1px]" style={{ background: swatch }} />}
      <strong>{lead.name}</strong> <span className="quiet text-note">{lead.colour}</span>
    </span>
  );
}

const cellId = (quantity: string) => fieldId(`reading:${quantity}`);

const fresh = (count: number): Lead[] => Array.from({ length: count }, (_, i) => ({ key: '', name: String.fromCharCode(65 + i), colour: '', seen: '' }));

function freeName(leads: readonly Lead[]): string {
  const taken = new Set(leads.map((l) => l.name));
  return Array.from({ length: 26 }, (_, i) => String.fromCharCode(65 + i)).find((n) => !taken.has(n)) ?? `L${leads.length + 1}`;
}
