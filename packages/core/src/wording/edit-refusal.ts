import { ENTRY_NAMES, type SectionName } from '../model/section.ts';
import type { EditRefusal } from '../model/edit-refusal.ts';

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
    case 'entries-changed':
      return `${refusal.changed} of the ${refusal.all} entries are not there any more, or were changed.`;
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
