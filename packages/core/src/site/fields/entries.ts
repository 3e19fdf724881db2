import type * as yup from 'yup';
import type { SECTIONS } from './schema.ts';
import type { siteSchema } from './site-schema.ts';

/** An entry of one section, as it is written. */
export type EntryOf<N extends keyof typeof SECTIONS> = yup.InferType<(typeof SECTIONS)[N]['entry']>;

/** The entries of a site file whose shape is right. */
export type Entries = {
  readonly site: yup.InferType<typeof siteSchema> | null;
  /** Every name that the file defines, also where its entry has an error of its own. */
  readonly defined: Readonly<Record<keyof typeof SECTIONS, readonly string[]>>;
} & {
  readonly [N in keyof typeof SECTIONS]: readonly (readonly [
    key: string | number,
    entry: EntryOf<N>,
  ])[];
};
