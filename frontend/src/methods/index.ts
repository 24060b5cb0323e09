import type { Frame, JobPageData } from '../api/client';
import { choppedSupply } from './chopped-supply';
import { controlVoltage } from './control-voltage';
import { dcVoltage } from './dc-voltage';
import { phaseAngle } from './phase-angle';
import { pwm } from './pwm';
import type { DesignEdit, MethodFile, MethodView, SizedMethod } from './seam';
import { seriesCapacitor } from './series-capacitor';
import { seriesResistor } from './series-resistor';
import { steppedVoltage } from './stepped-voltage';
import { windingTap } from './winding-tap';

/** Every way of regulating that is sized here; a method that is forgotten does not compile. */
const METHODS: { readonly [M in SizedMethod]: MethodView<M> } = {
  'series-capacitor': seriesCapacitor,
  'series-resistor': seriesResistor,
  'phase-angle': phaseAngle,
  'stepped-voltage': steppedVoltage,
  'winding-tap': windingTap,
  pwm,
  'dc-voltage': dcVoltage,
  'chopped-supply': choppedSupply,
  'control-voltage': controlVoltage,
};

export const SIZED = Object.keys(METHODS) as SizedMethod[];

export function isSized(method: string | null | undefined): method is SizedMethod {
  return method !== null && method !== undefined && method in METHODS;
}

export const viewOf = <M extends SizedMethod>(method: M): MethodView<M> => METHODS[method];

// A design and the view of its own method always go together; the compiler cannot see that through the union.
const ofDesign = (design: DesignEdit) => METHODS[design.method] as unknown as MethodView<SizedMethod>;

export const provedWords = (design: DesignEdit, frame: Frame): string => ofDesign(design).proved(design, frame);

export const filesOf = (page: JobPageData, design: DesignEdit): MethodFile[] => ofDesign(design).files?.(page, design) ?? [];
