import { valuesIn, walk, type Condition, type Value } from '../../model/condition.ts';
import type { Demand, Guarantee } from '../../model/guarantee.ts';
import type { GuaranteeFault } from '../../model/site-error.ts';
import type { YamlPath, SiteDocument } from '../yaml/document.ts';
import type { EntryOf } from '../fields/entries.ts';
import { isYes } from '../fields/schema-kinds.ts';
import { buildScopes } from './build-scopes.ts';
import type { FieldReader } from './field-reader.ts';

type Audiences = Readonly<Record<string, Condition>>;

/** An old address, with or without a host; everything else is a day. */
const isAddress = (from: string): boolean => /^(?:\/|\{\/|https?:\/\/)/i.test(from);

/** Builds a guarantee. What could neither be proved nor refuted is an error. */
export function buildGuarantee(
  position: number,
  entry: EntryOf<'guarantees'>,
  audiences: Audiences,
  read: FieldReader,
  document: SiteDocument,
): Guarantee | null {
  const path: YamlPath = ['guarantees', position];
  const demands: readonly Demand[] = [entry.always ?? entry.never ?? []].flat();
  const wrong = (fault: GuaranteeFault, field: string): void =>
    read.list.atValue([...path, field], { code: 'guarantee', fault });
  const demand = entry.always === undefined ? 'never' : 'always';
  const alone: readonly Demand[] = [
    'change',
    'permanent',
    ...(demand === 'never' ? ['reach' as const] : []),
  ];
  if (demands.length > 1 && demands.some((one) => alone.includes(one))) wrong('alone', demand);

  const from = entry.from;
  const isOld = from !== undefined && isAddress(from);
  const old = isOld ? read.source(from, [...path, 'from']) : null;
  if (isOld && !old) return null;
  const isPermanent = demands[0] === 'permanent' && demand === 'always';
  if (isOld ? !isPermanent : demands.includes('permanent')) wrong('old-addresses', demand);
  if (entry.hops !== undefined && !isOld) wrong('old-addresses', 'hops');
  if (old && old.queryConstraints.length > 0) wrong('old-addresses', 'from');
  const links = isYes(entry.links);
  const scopes = buildScopes(entry, read, path);
  if ((isOld || links) && scopes.length > 0)
    wrong('no-scope', entry.under === undefined ? 'at' : 'under');

  const who: Condition =
    entry.who === undefined ? { is: 'anyone' } : read.condition(entry.who, [...path, 'who']);
  if (isOpen(who, audiences)) wrong('open-condition', 'who');
  return {
    name: `#${position + 1}`,
    who,
    is: demand,
    demands,
    scopes,
    old: old && { host: old.host, pattern: old.pattern },
    hops: entry.hops ?? null,
    links,
    ...read.period(isOld ? undefined : from, entry.until, path),
    note: entry.note ?? null,
    place: document.valueAt(path),
  };
}

/** Whether a condition is about the address, or compares two things that differ from one visitor to the next. */
function isOpen(who: Condition, audiences: Audiences): boolean {
  let found = false;
  walk(who, (inner) => {
    const audience = inner.is === 'audience' ? audiences[inner.name] : undefined;
    if (audience) found ||= isOpen(audience, audiences);
    if (inner.is !== 'compare') return;
    const open = valuesIn(inner).filter(({ is }) => OPEN.includes(is));
    found ||= open.length > 1 || open.some(({ is }) => is === 'path' || is === 'query');
  });
  return found;
}

const OPEN: readonly Value['is'][] = ['visitor', 'path', 'query', 'language'];
