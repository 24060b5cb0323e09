import type { ComponentProps } from 'react';
import type { Problem } from '../../api/client';
import { ValueField } from '../../ui/ValueField';
import { Parts } from './Parts';

interface Props<D> extends Pick<ComponentProps<typeof Parts>, 'frame' | 'empty'> {
  design: D | null;
  onChoose: (design: D) => Promise<Problem | null>;
}

/** The list of parts, of which only the fuse is set by hand. */
export function FusedParts<D extends { fuse?: string }>({ frame, empty, design, onChoose }: Props<D>) {
  return (
    <Parts
      frame={frame}
      empty={empty}
      fields={(part) =>
        design && part.kind === 'fuse' ? (
          <div className="w-40">
            <ValueField label="fuse; empty: Fenwit chooses" text={design.fuse ?? ''} hint={part.bench} onCommit={(fuse) => onChoose({ ...design, fuse })} />
          </div>
        ) : null
      }
    />
  );
}
