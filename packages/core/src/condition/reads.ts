import { valuesIn, walk, type Condition } from '../model/condition.ts';
import type { Names } from './evaluate.ts';

/** What a condition looks at, audiences opened: what an answer that used it varies on. */
export interface Reads {
  readonly visitor: boolean;
  readonly language: boolean;
}

// A condition belongs to one site, so that its audiences never change under it.
const known = new WeakMap<Condition, Reads>();

/** Whether a condition depends on who is asking, or on their language. */
export function readsOf(condition: Condition, names: Names): Reads {
  const before = known.get(condition);
  if (before) return before;
  const values = valuesIn(condition);
  let visitor = values.some(({ is }) => is === 'visitor');
  let language = values.some(({ is }) => is === 'language');
  walk(condition, (inner) => {
    if (inner.is === 'audience') {
      const audience = names.audiences.get(inner.name);
      const opened = audience ? readsOf(audience, names) : { visitor: false, language: false };
      visitor ||= opened.visitor;
      language ||= opened.language;
    } else if (['guest', 'signed-in', 'role', 'group', 'person', 'bought'].includes(inner.is)) {
      visitor = true;
    }
  });
  const reads = { visitor, language };
  known.set(condition, reads);
  return reads;
}
