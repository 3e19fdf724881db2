import { capitalize } from '../text/capitalize.ts';
import { isRecord, type SiteValue } from '../model/plain-value.ts';
import type { Edit } from '../model/edit.ts';
import { entryWord } from './edit-refusal.ts';

/**
 * Says in one line what an edit does, for a list of pending edits.
 *
 * @param site the site file as plain values: of an entry that is there, only what changes is told
 */
export function sayEdit(edit: Edit, site: SiteValue = {}): string {
  switch (edit.do) {
    case 'put':
      return edit.section === 'site'
        ? `Site: ${edit.name} is ${inShort(edit.value)}`
        : `${called(edit.section, edit.name)}: ${changesIn(entryIn(site, edit), edit.value)}`;
    case 'remove':
      return edit.section === 'site'
        ? `Site: ${edit.name} is as usual`
        : `${called(edit.section, edit.name)} is removed`;
    case 'put-item':
      if (edit.value === null) return `${word(edit.section)} is removed: ${inShort(edit.was)}`;
      return `${word(edit.section)} ${edit.was === null ? 'is added' : 'becomes'}: ${inShort(edit.value)}`;
    case 'put-items':
      return sayItems(edit);
    case 'rename':
      return `${called(edit.section, edit.name)} is called ${edit.to}, in every rule`;
    case 'move-page': {
      const what = edit.beneath ? `${edit.from} and what is beneath it` : edit.from;
      const redirect = edit.redirect ? 'with a redirect' : 'without a redirect';
      return `Page ${what} ${edit.beneath ? 'move' : 'moves'} to ${edit.to}, ${redirect}`;
    }
    case 'copy-settings':
      return `Page ${edit.to} gets the settings of ${edit.from}`;
  }
}

function entryIn(site: SiteValue, { section, name }: Extract<Edit, { do: 'put' }>): unknown {
  const entries = site[section];
  return isRecord(entries) && Object.hasOwn(entries, name) ? entries[name] : undefined;
}

/** The fields of an entry that differ, and those that are gone; all of one that is new. */
function changesIn(before: unknown, value: unknown): string {
  if (!isRecord(before) || !isRecord(value)) return inShort(value);
  const changed = Object.entries(value).filter(([name, field]) => !isSame(field, before[name]));
  const gone = Object.keys(before).filter((name) => !Object.hasOwn(value, name));
  const says = [
    ...(changed.length > 0 ? [inShort(Object.fromEntries(changed))] : []),
    ...gone.map((name) => `without ${name}`),
  ];
  return says.length > 0 ? says.join('; ') : inShort(value);
}

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

const word = (section: string): string => capitalize(entryWord(section));

const called = (section: string, name: string): string => `${word(section)} ${name}`;

function inShort(value: unknown): string {
  if (Array.isArray(value)) return value.map(inShort).join(', ');
  if (value === null) return 'nothing more';
  if (!isRecord(value)) return typeof value === 'string' ? value : JSON.stringify(value);
  return Object.entries(value)
    .map(([name, field]) =>
      name === 'title'
        ? inShort(field)
        : `${name} ${isRecord(field) ? `(${inShort(field)})` : inShort(field)}`,
    )
    .join('; ');
}

function sayItems({ section, items }: Extract<Edit, { do: 'put-items' }>): string {
  const added = items.filter(({ was }) => was === null).length;
  const removed = items.filter(({ value }) => value === null).length;
  const changed = items.length - added - removed;
  const says = [
    [added, 'added'],
    [changed, 'changed'],
    [removed, 'removed'],
  ] as const;
  const what = section === 'redirects' ? 'Redirects' : word(section);
  return `${what}: ${says
    .filter(([count]) => count > 0)
    .map(([count, done]) => `${count} ${done}`)
    .join(', ')}`;
}
