import type { ComponentType, LazyExoticComponent } from 'react';
import type { Frame, JobPageData, Schemas } from '../api/client';

/** A design as it would be typed, by any method. */
export type DesignEdit = NonNullable<Schemas['Tried']['design']>;
export type SizedMethod = DesignEdit['method'];
/** The design of one method. */
export type DesignOf<M extends SizedMethod> = Extract<DesignEdit, { method: M }>;

/** A file that only this method has. */
export interface MethodFile {
  to: string;
  text: string;
}

/** What a way of regulating is to the rest of the front end. */
export interface MethodView<M extends SizedMethod> {
  /** On the tab of Size, and where designs are listed. */
  tab: string;
  /** With its article, where a job is reckoned with it. */
  name: string;
  /** Of Aim's column, and the sentence that explains it. */
  needs: { heading: string; help: string };
  /** Its part of Size. */
  Sizer: LazyExoticComponent<ComponentType>;
  /** What is proved, beside the volts at the terminals. */
  proved: (design: DesignOf<M>, frame: Frame) => string;
  /** Tools of Prove for the step in hand. */
  ProveTools?: LazyExoticComponent<ComponentType>;
  /** Files to hand over beside those that every job has. */
  files?: (page: JobPageData, design: DesignOf<M>) => MethodFile[];
}
