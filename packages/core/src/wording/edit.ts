import { capitalize } from '../text/capitalize.ts';
import { isRecord } from '../model/plain-value.ts';
import type { Edit } from '../model/edit.ts';
import { ENTRY_NAMES, type SectionName } from '../model/section.ts';
import type { EditRefusal } from '../model/edit-refusal.ts';

/** Says in one line what an edit does, for a list of pending edits. Of an entry that is there, only what changes is told. */
export function sayEdit(edit: Edit): string {
  switch (edit.do) {
    case 'put':
      return edit.section === 'site'
        ? `Site: ${edit.name} is ${inShort(edit.value)}`
        : `${called(edit.section, edit.name)}: ${changesIn(edit.was, edit.value)}`;
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

/** The fields of a value that differ, for a message. */
const differing = (from: unknown, value: unknown): string =>
  value === null ? 'nothing' : changesIn(from, value).replace(/\.$/, '');

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

/** What one entry of a section of a site file is called; a section that there is not stands for itself. */
export const entryWord = (section: string): string =>
  Object.hasOwn(ENTRY_NAMES, section) ? ENTRY_NAMES[section as SectionName] : section;

/** Why an edit can't be made, in English. */
export function describeRefusal(refusal: EditRefusal): string {
  switch (refusal.code) {
    case 'no-name':
      return `A ${entryWord(refusal.section)} needs a name.`;
    case 'not-there':
      return `There is no ${entryWord(refusal.section)} "${refusal.name}" any more.`;
    case 'name-taken':
      return `There is a ${entryWord(refusal.section)} "${refusal.name}" already.`;
    case 'entry-changed':
      return `The ${entryWord(refusal.section)} is not there any more, or was changed.`;
    case 'entry-replaced': {
      const { section, name, was, is } = refusal;
      const [before, now] = [differing(is, was), differing(was, is)];
      return `${called(section, name)} was changed meanwhile. Before: ${before}. Now: ${now}.`;
    }
    case 'entries-changed':
      return `${refusal.changed} of the ${refusal.all} entries are not there any more, or were changed.`;
    case 'reserved-name':
      return `"${refusal.name}" is a word of conditions. Choose another name.`;
    case 'not-of-this-site':
      return `"${refusal.address}" is no address of this site: begin it with a slash.`;
    case 'not-yaml':
      return 'The site file is not YAML.';
    case 'no-pointer':
      return `"${refusal.path}" is not a JSON Pointer to a part of a site file.`;
    case 'nothing-at-path':
      return `There is nothing at ${refusal.path}.`;
    case 'other-value':
      return `The value at ${refusal.path} is another one.`;
    case 'moved-into-itself':
      return `${refusal.path} can't be moved into itself.`;
    case 'nothing-to-add-to':
      return `There is nothing at ${refusal.path} to add to.`;
    case 'not-writable':
      return `${refusal.path} can't be changed without changing something else in the file, such as what an anchor shares. Edit the file itself.`;
    case 'no-such-place':
      return `The list at ${refusal.path} has no place ${refusal.place}.`;
  }
}
