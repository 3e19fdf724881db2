import { createHash } from 'node:crypto';
import { type model, siteFiles } from '@kleidon/core';
import { keepLast } from './keep-last.ts';

type Planned = ReturnType<typeof siteFiles.planEdits>;
type SiteValue = ReturnType<typeof siteFiles.valueOf>;

/** What is asked of the texts of site files again and again; each answer costs as much as reading one. */
export interface Plans {
  /** What edits come to in a site file. */
  plan(text: string, edits: readonly model.Edit[]): Planned;
  /** A site file as plain values. */
  valueOf(text: string): SiteValue;
}

/** Keeps the last answers: pending changes are one more each time, and the others have come to the same before. */
export function keepPlans(): Plans {
  const plans = new Map<string, Planned>();
  const values = new Map<string, SiteValue>();
  const keyOf = (hash: string, edits: readonly string[]): string => `${hash} ${edits.join(',')}`;
  return {
    plan: (text, edits) => {
      const hash = hashOf(text);
      const each = edits.map((edit) => JSON.stringify(edit));
      let done = each.length;
      while (done > 0 && !plans.has(keyOf(hash, each.slice(0, done)))) done--;
      const before = done === 0 ? null : plans.get(keyOf(hash, each.slice(0, done)))!;
      const planned =
        before === null
          ? siteFiles.planEdits(text, edits)
          : done === each.length
            ? before
            : joined(before, siteFiles.planEdits(before.text, edits.slice(done)), done);
      keepLast(plans, keyOf(hash, each), planned);
      return planned;
    },
    valueOf: (text) => {
      const hash = hashOf(text);
      const value = values.get(hash) ?? siteFiles.valueOf(text);
      keepLast(values, hash, value);
      return value;
    },
  };
}

const hashOf = (text: string): string => createHash('sha256').update(text).digest('base64');

const joined = (before: Planned, after: Planned, done: number): Planned => ({
  text: after.text,
  operations: [...before.operations, ...after.operations],
  refused: [
    ...before.refused,
    ...after.refused.map((one) => ({ ...one, position: one.position + done })),
  ],
});
