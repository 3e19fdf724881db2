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

/** Keeps the last answers: with each pending change, those before it come to what they came to before. */
export function keepPlans(): Plans {
  const plans = new Map<string, Planned>();
  const values = new Map<string, SiteValue>();
  return {
    plan: (text, edits) => {
      // The key of each edit stands for it and for all before it.
      const keys = [hashOf(text)];
      for (const edit of edits) keys.push(hashOf(keys.at(-1)! + JSON.stringify(edit)));
      const done = keys.findLastIndex((key, i) => i > 0 && plans.has(key));
      const before = done === -1 ? null : plans.get(keys[done]!)!;
      const planned =
        before === null
          ? siteFiles.planEdits(text, edits)
          : done === edits.length
            ? before
            : joined(before, siteFiles.planEdits(before.text, edits.slice(done)), done);
      keepLast(plans, keys.at(-1)!, planned);
      return planned;
    },
    valueOf: (text) => {
      const value = values.get(text) ?? siteFiles.valueOf(text);
      keepLast(values, text, value);
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
