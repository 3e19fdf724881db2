import { valuesIn, walk, type Condition } from '../model/condition.ts';
import type { Names } from './evaluate.ts';

/** What a condition looks at, audiences opened: what an answer that used it varies on. */
export interface Reads {
  readonly visitor: boolean;
  readonly language: boolean;
  /** It looks at the pieces or the query of the address. */
  readonly address: boolean;
}

// A condition belongs to one site, so that its audiences never change under it.
const known = new WeakMap<Condition, Reads>();

/** Whether a condition depends on who is asking, on their language, or on the address. */
export function readsOf(condition: Condition, names: Names): Reads {
  const before = known.get(condition);
  if (before) return before;
  const values = valuesIn(condition);
  let visitor = values.some(({ is }) => is === 'visitor');
  let language = values.some(({ is }) => is === 'language');
  let address = values.some(({ is }) => is === 'path' || is === 'query');
  walk(condition, (inner) => {
    if (inner.is === 'audience') {
      const audience = names.audiences.get(inner.name);
      if (!audience) return;
      const opened = readsOf(audience, names);
      visitor ||= opened.visitor;
      language ||= opened.language;
      address ||= opened.address;
    } else if (['guest', 'signed-in', 'role', 'group', 'person', 'bought'].includes(inner.is)) {
      visitor = true;
    }
  });
  const reads = { visitor, language, address };
  known.set(condition, reads);
  return reads;
}
