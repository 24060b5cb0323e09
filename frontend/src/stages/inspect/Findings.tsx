import { Popover } from 'radix-ui';
import { ValueField } from '../../ui/ValueField';
import type { Save, Shown } from './api';

const SAY = { danger: 'danger', damage: 'will fail', wrong: 'wrong', note: 'note' } as const;
const ORDER = ['danger', 'damage', 'wrong', 'note'] as const;

/** What is missing, weak or wrong: what it is, why it matters, how to look. */
export function Findings({ shown, save }: { shown: Shown; save: Save }) {
  return (
    <section aria-label="Findings">
      <div className="flex flex-wrap items-baseline gap-x-6">
        <p className="quiet text-body">
          {shown.findings.length ? 'At the worst place, on mains a tenth high, with this fan.' : 'Nothing was found as far as the board was looked at.'}
          {shown.unseen.length > 0 && ` Not looked at yet: ${shown.unseen.join(', ')}.`}
        </p>
        <span className="ml-auto">
          <Limits shown={shown} save={save} />
        </span>
      </div>
      {ORDER.map((severity) => {
        const mine = shown.findings.filter((f) => f.severity === severity);
        return (
          mine.length > 0 && (
            <section key={severity} aria-label={SAY[severity]}>
              <h3 className={`heading pt-2 ${severity === 'danger' ? 'text-copper' : severity === 'note' ? 'quiet' : ''}`}>
                {severity === 'danger' ? '△ ' : ''}
                {SAY[severity]}
              </h3>
              <ul>
                {mine.map((f) => (
                  <li
                    key={`${f.key}${f.part}`}
                    className="row-line grid grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)_minmax(0,1fr)] gap-5 py-1 text-body max-[900px]:grid-cols-1 max-[900px]:gap-0"
                  >
                    <div>
                      <span className="font-semibold">
                        {f.ref && <span className="mono">{f.ref} </span>}
                        {f.title}
                      </span>
                      <div>
                        {f.figures}
                        {!f.sure && <span className="text-caution"> (as far as its value is known)</span>}
                      </div>
                    </div>
                    <div>
                      <span className="quiet">why </span>
                      {f.why}
                    </div>
                    <div>
                      <span className="quiet">look </span>
                      {f.look}
                    </div>
                  </li>
                ))}
              </ul>
            </section>
          )
        );
      })}
      <p className="quiet pt-3 text-note">
        A finding is a reason to look, not a verdict on safety: local codes and a licensed person decide what may stay in service.
      </p>
    </section>
  );
}

function Limits({ shown, save }: { shown: Shown; save: Save }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="link-button text-body">thresholds</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" collisionPadding={12} className="panel z-20 max-h-[70vh] w-[480px] max-w-[94vw] overflow-auto p-5 text-body">
          <h3 className="heading">Thresholds</h3>
          <p className="quiet pb-2 text-note">Trade judgement; an empty field brings back what is usual.</p>
          <ul>
            {shown.limits.map((l) => (
              <li key={l.key} className="row-line grid grid-cols-[minmax(0,1fr)_110px] items-start gap-3">
                <span className="pt-2">
                  {l.words}, {l.unit}
                </span>
                <ValueField
                  bare
                  label={`${l.words}, ${l.unit}`}
                  text={l.own ? l.text : ''}
                  hint={`${l.usual} ${l.unit}`}
                  onCommit={(text) => save({ limits: { [l.key]: text } }, text)}
                />
              </li>
            ))}
          </ul>
          <Popover.Close className="button mt-3">Close</Popover.Close>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
