import { Tabs } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import type { Frame } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Cautions } from '../../ui/Cautions';
import { Acceptance } from './Acceptance';
import { Strays } from './Strays';
import { useDesign } from './useDesign';

interface Props {
  frame: Frame;
  noun: string;
  /** A tab that only this method has. */
  more?: { title: string; view: ReactNode } | undefined;
  children: ReactNode;
}

/** What of a regulator is judged: its parts, how far its steps stray, whether they are accepted. */
export function BuiltTabs({ frame, noun, more, children }: Props) {
  const { draft } = useJobInHand();
  const { saveJob } = useDesign();
  const [tab, setTab] = useState('parts');
  const missed = frame.rules.filter((r) => !r.met).length;
  return (
    <Tabs.Root
      value={tab}
      onValueChange={setTab}
      className={`mt-1 flex min-h-0 flex-col ${frame.parts.length > 0 ? 'flex-[1_1_250px] max-[900px]:flex-none' : 'flex-none'}`}
    >
      <Tabs.List
        className="flex shrink-0 gap-7 overflow-x-auto overflow-y-hidden border-b border-rule whitespace-nowrap max-[900px]:gap-4"
        aria-label={`About the ${noun}`}
      >
        <Tabs.Trigger value="parts" className="tab -mb-px">
          Parts and what they bear
        </Tabs.Trigger>
        {more && (
          <Tabs.Trigger value="more" className="tab -mb-px">
            {more.title}
          </Tabs.Trigger>
        )}
        <Tabs.Trigger value="strays" className="tab -mb-px">
          How far steps stray
        </Tabs.Trigger>
        <Tabs.Trigger value="acceptance" className="tab -mb-px">
          Acceptance
          {frame.rules.length > 0 && <span className={missed ? 'text-copper' : ''}>{missed ? `△ ${missed} missed` : '● all met'}</span>}
        </Tabs.Trigger>
      </Tabs.List>
      <Tabs.Content value="parts" className="min-h-0 flex-1 overflow-auto">
        {children}
      </Tabs.Content>
      {more && (
        <Tabs.Content value="more" className="min-h-0 flex-1 overflow-auto">
          {more.view}
        </Tabs.Content>
      )}
      <Tabs.Content value="strays" className="min-h-0 flex-1 overflow-auto">
        <Strays frame={frame} noun={noun} tried={draft !== null} />
      </Tabs.Content>
      <Tabs.Content value="acceptance" className="min-h-0 flex-1 overflow-auto">
        <Acceptance frame={frame} noun={noun} save={(profile) => saveJob({ profile }, 'The acceptance profile')} />
      </Tabs.Content>
      <div className="max-h-[120px] shrink-0 overflow-auto border-t border-rule pt-1">
        <Cautions stage="size" brief />
      </div>
    </Tabs.Root>
  );
}
