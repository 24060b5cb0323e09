import { Popover } from 'radix-ui';
import { answer, api, problemOf, type Problem, type Schemas } from '../api/client';
import { ValueField } from '../ui/ValueField';
import type { DeviceShown } from './api';

/** The bench of a simulated fan, which no hand can reach: its knob, damper, plug and enable contact. */
export function ByHand({ device }: { device: DeviceShown }) {
  const put = async (done: Schemas['ByHand']): Promise<Problem | null> => {
    try {
      await answer(api.POST('/api/devices/{name}/by-hand', { params: { path: { name: device.name } }, body: done }));
      return null;
    } catch (error) {
      return problemOf(error);
    }
  };
  const orders: readonly [string, Schemas['ByHand']][] = [
    ['pull its plug', { power: false }],
    ['plug it in', { power: true }],
    ['open enable', { enable: false }],
    ['close enable', { enable: true }],
    ['lose the next answer', { lose_next: 1 }],
  ];
  return (
    <Popover.Root>
      <Popover.Trigger className="link-button">simulated bench</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="bottom" align="start" className="z-20 w-[420px] max-w-[94vw] space-y-2 border border-ink bg-paper p-4 text-body">
          <h2 className="heading">The simulated fan’s bench</h2>
          <p className="quiet text-note">It starts softly: wait some 13 s after each change, as with a real one.</p>
          <div className="grid grid-cols-2 gap-x-4">
            <ValueField
              inputId="by-hand-knob"
              label="volts on analog 1"
              text=""
              hint="5 V"
              onCommit={(knob) => (knob.trim() ? put({ knob }) : Promise.resolve(null))}
            />
            <ValueField
              inputId="by-hand-damper"
              label="damper: resistance ×"
              text=""
              hint="2.5"
              onCommit={(damper) => (damper.trim() ? put({ damper }) : Promise.resolve(null))}
            />
          </div>
          <div className="flex flex-wrap gap-x-5">
            {orders.map(([words, done]) => (
              <button key={words} type="button" className="link-button" onClick={() => void put(done)}>
                {words}
              </button>
            ))}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
