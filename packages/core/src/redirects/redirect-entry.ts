import { printCondition } from '../condition/print.ts';
import type { Redirect } from '../model/site.ts';
import { printInstant } from '../time/instant.ts';

/** A redirect as the entry of a site file; what is as usual is left out. */
export function redirectEntry(redirect: Redirect): Readonly<Record<string, unknown>> {
  const {
    source: name,
    to,
    kind,
    query,
    when,
    validFrom: from,
    validUntil: until,
    unlessPage,
    keepFor,
    wait,
    note,
    rank,
  } = redirect;
  const said: Record<string, unknown> = {
    from: name,
    to: to.text,
    kind: kind === 'temporary' ? undefined : kind,
    query: query === 'drop' ? undefined : query,
    when: when === null ? undefined : printCondition(when),
    since: from === null ? undefined : printInstant(from),
    until: until === null ? undefined : printInstant(until),
    'unless-page': unlessPage ? 'yes' : undefined,
    'keep-for': keepFor === null ? undefined : `${keepFor}s`,
    wait: wait === null ? undefined : `${wait.seconds}s`,
    say: wait?.say ?? undefined,
    note: note ?? undefined,
    rank: rank === 0 ? undefined : rank,
  };
  return Object.fromEntries(Object.entries(said).filter(([, value]) => value !== undefined));
}
