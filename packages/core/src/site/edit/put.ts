import { type SiteValue, isRecord } from '../../model/plain-value.ts';
import { pointer } from '../yaml/pointer.ts';
import { changeValue, isSame } from './change-value.ts';
import type { Edit } from '../../model/edit.ts';
import { entriesOf, mustBeThere, Refused } from './refused.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

type Of<D extends Edit['do']> = Extract<Edit, { do: D }>;

/**
 * Adds an entry, or changes it to another value.
 *
 * @throws Refused where the name is empty, or the entry has another value than the one that is replaced
 */
export function put({ section, name, was, value }: Of<'put'>, site: SiteValue): PatchOperation[] {
  const path = [section, name];
  if (name === '') throw new Refused({ code: 'no-name', section });
  const is = valueIn(site, section, name);
  const isMade = is !== null && isSame(inForm(section, is), inForm(section, value));
  if (!isMade) mustBe(section, name, was, is);
  if (is === null && !Object.hasOwn(entriesOf(site, section), name))
    return [{ op: 'add', path: pointer(...path), value: inForm(section, value) }];
  // A page that has only a title stays in its short form; one that gets more takes the long one.
  const after = section === 'pages' && !isRecord(is) ? shortForm(value) : value;
  return changeValue(path, is, after);
}

/** The value of an entry, or null. */
const valueIn = (site: SiteValue, section: string, name: string): unknown => {
  const entries = entriesOf(site, section);
  return Object.hasOwn(entries, name) ? (entries[name] ?? null) : null;
};

const inForm = (section: string, value: unknown): unknown =>
  section === 'pages' ? shortForm(value) : value;

/** Throws `Refused` if the entry has changed since the edit was made. */
function mustBe(section: string, name: string, was: unknown, is: unknown): void {
  if (isSame(inForm(section, was ?? null), inForm(section, is))) return;
  throw new Refused({ code: 'entry-replaced', section, name, was: was ?? null, is });
}

function shortForm(page: unknown): unknown {
  if (!isRecord(page)) return page;
  const { title, ...rest } = page;
  return typeof title === 'string' && Object.values(rest).every((one) => one === undefined)
    ? title
    : page;
}

/**
 * Removes an entry.
 *
 * @throws Refused where there is no such entry, or it has another value than the one that is removed
 */
export function remove({ section, name, was }: Of<'remove'>, site: SiteValue): PatchOperation[] {
  mustBeThere(site, section, name);
  mustBe(section, name, was, valueIn(site, section, name));
  return [{ op: 'remove', path: pointer(section, name) }];
}

/**
 * Adds an entry to a list, changes it or removes it.
 *
 * @throws Refused where the list has no such entry any more
 */
export function putItem(
  { section, was, value }: Of<'put-item'>,
  site: SiteValue,
): PatchOperation[] {
  const items = Array.isArray(site[section]) ? (site[section] as unknown[]) : [];
  if (was === null)
    return value === null ? [] : [{ op: 'add', path: pointer(section, '-'), value }];
  const position = items.findIndex((item) => isSame(item, was));
  if (position === -1) throw new Refused({ code: 'entry-changed', section });
  return value === null
    ? [{ op: 'remove', path: pointer(section, position) }]
    : changeValue([section, position], items[position], value);
}

/**
 * Changes several entries of a list. What is changed comes first, then what is removed, from the end on: so every position stays right.
 *
 * @throws Refused where the list lacks some of the entries
 */
export function putItems({ section, items }: Of<'put-items'>, site: SiteValue): PatchOperation[] {
  const there = Array.isArray(site[section]) ? (site[section] as unknown[]) : [];
  const found = items.map(({ was, value }) => ({
    value,
    was,
    position: was === null ? -1 : there.findIndex((item) => isSame(item, was)),
  }));
  const gone = found.filter(({ was, position }) => was !== null && position === -1).length;
  if (gone > 0) throw new Refused({ code: 'entries-changed', changed: gone, all: items.length });
  const changed = found.filter(({ was, value }) => was !== null && value !== null);
  const removed = found.filter(({ was, value }) => was !== null && value === null);
  const added = found.filter(({ was, value }) => was === null && value !== null);
  return [
    ...changed.flatMap(({ position, value }) =>
      changeValue([section, position], there[position], value),
    ),
    ...removed
      .map(({ position }) => position)
      .sort((a, b) => b - a)
      .map((position): PatchOperation => ({ op: 'remove', path: pointer(section, position) })),
    ...added.map(({ value }): PatchOperation => ({
      op: 'add',
      path: pointer(section, '-'),
      value,
    })),
  ];
}

/**
 * Updates a pending edit after earlier edits of the same set were saved: it replaces their results.
 *
 * @param saved the edits that were saved, in order
 */
export function afterSaved(edit: Edit, saved: readonly Edit[]): Edit {
  return saved.reduce((at: Edit, one): Edit => {
    if ((at.do === 'put' || at.do === 'remove') && (one.do === 'put' || one.do === 'remove')) {
      const isOfSame =
        at.section === one.section && at.name === one.name && isSame(at.was, one.was);
      return isOfSame ? { ...at, was: one.do === 'put' ? one.value : null } : at;
    }
    const isOfItem = at.do === 'put-item' && one.do === 'put-item' && at.section === one.section;
    return isOfItem && at.was !== null && isSame(at.was, one.was) ? { ...at, was: one.value } : at;
  }, edit);
}
