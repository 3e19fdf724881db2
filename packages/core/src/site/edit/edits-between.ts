import { isRecord, type SiteValue } from '../../model/plain-value.ts';
import type { Edit } from '../../model/edit.ts';
import { ENTRY_NAMES, type ListSection, type MapSection } from '../../model/section.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';
import { sayEdit } from '../../wording/edit.ts';
import { pointer } from '../yaml/pointer.ts';
import { planEdits, valueOf, yamlOf } from './plan-edits.ts';

/** What makes one site file of another, entry by entry; where the entries of a list stand does not matter. */
function editsBetween(before: SiteValue, after: SiteValue): Edit[] {
  const sections = new Set([...Object.keys(before), ...Object.keys(after)]);
  return [...sections].flatMap((section): Edit[] => {
    const [was, is] = [before[section], after[section]];
    if (isSame(was, is)) return [];
    if (section === 'site' || (section in ENTRY_NAMES && !isList(was) && !isList(is)))
      return ofEntries(section as MapSection, was, is);
    return section in ENTRY_NAMES ? ofItems(section as ListSection, was, is) : [];
  });
}

const isList = (value: unknown): boolean => Array.isArray(value);
const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

function ofEntries(section: 'site' | MapSection, was: unknown, is: unknown): Edit[] {
  const [old, now] = [was, is].map((value) => (isRecord(value) ? value : {})) as [
    Record<string, unknown>,
    Record<string, unknown>,
  ];
  return [...new Set([...Object.keys(old), ...Object.keys(now)])].flatMap((name): Edit[] => {
    if (!Object.hasOwn(now, name)) return [{ do: 'remove', section, name, was: old[name] ?? null }];
    return Object.hasOwn(old, name) && isSame(old[name], now[name])
      ? []
      : [{ do: 'put', section, name, was: old[name] ?? null, value: now[name] }];
  });
}

function ofItems(section: ListSection, was: unknown, is: unknown): Edit[] {
  const left = new Map<string, unknown[]>();
  for (const item of Array.isArray(was) ? (was as unknown[]) : []) {
    const key = JSON.stringify(item);
    const same = left.get(key);
    if (same) same.push(item);
    else left.set(key, [item]);
  }
  const added = (Array.isArray(is) ? (is as unknown[]) : []).filter(
    (item) => left.get(JSON.stringify(item))?.pop() === undefined,
  );
  const removed = [...left.values()].flat();
  const items = [
    ...removed.map((item) => ({ was: item, value: null })),
    ...added.map((item) => ({ was: null, value: item })),
  ];
  if (items.length === 0) return [];
  // Many at once, as from a file, are counted.
  if (items.length > MOST_ITEMS) return [{ do: 'put-items', section, items }];
  return items.map((item) => ({ do: 'put-item', section, ...item }));
}

const MOST_ITEMS = 10;
const MOST_SENTENCES = 30;

/**
 * Says what makes one site file of another, a sentence for each entry.
 *
 * @param before a site file; it may have errors, as may the other
 * @returns at most some thirty sentences; the last one then counts the rest
 */
export function changesBetween(before: string, after: string): string[] {
  const [was, is] = [before, after].map(yamlOf);
  if (!is || !was)
    return [
      `What changed can't be told: ${is ? 'the version before' : 'this version'} is not YAML`,
    ];
  const edits = editsBetween(was, is);
  const says = edits.slice(0, MOST_SENTENCES).map(sayEdit);
  const left = edits.length - says.length;
  return left > 0 ? [...says, `and ${left} more`] : says;
}

/**
 * What makes one site file of another, as a JSON Patch (RFC 6902).
 *
 * @param before a site file; it may have errors
 */
export function patchBetween(before: string, after: string): PatchOperation[] {
  const [was, is] = [before, after].map(valueOf) as [SiteValue, SiteValue];
  const { operations } = planEdits(before, editsBetween(was, is));
  const missing = Object.entries(is).filter(
    ([section, value]) => !Object.hasOwn(was, section) && typeof value === 'object',
  );
  // By the standard, what is added to must be there.
  const added = missing.map(([section, value]): PatchOperation => ({
    op: 'add',
    path: pointer(section),
    value: Array.isArray(value) ? [] : {},
  }));
  return [...added, ...operations];
}
