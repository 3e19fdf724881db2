import { type SiteValue, isRecord } from '../../model/plain-value.ts';
import { renameInCondition, type NamedKind } from '../../condition/rename.ts';
import { pointer } from '../yaml/pointer.ts';
import { type TextKind } from '../fields/schema-kinds.ts';
import type { Edit } from '../../model/edit.ts';
import { textsAt, textsOfKind, type Mention } from './mentions.ts';
import { RESERVED_WORDS } from '../../condition/vocabulary.ts';
import { entriesOf, mustBeFree, mustBeThere, Refused } from './refused.ts';
import { entryWord } from '../../wording/edit.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

const IN_CONDITIONS: Readonly<Record<string, NamedKind>> = {
  roles: 'role',
  groups: 'group',
  products: 'product',
  audiences: 'audience',
  visitors: 'person',
};

/** The kind of texts in which names stand by themselves, outside conditions. */
const BY_THEMSELVES: Readonly<Record<string, TextKind>> = {
  roles: 'role',
  groups: 'group',
  products: 'product',
  visitors: 'visitor',
};

/** Renames an entry and follows it through conditions, visitors and accepted findings. */
export function rename(
  { section, name, to }: Extract<Edit, { do: 'rename' }>,
  site: SiteValue,
): PatchOperation[] {
  mustBeThere(site, section, name);
  if (to === name) return [];
  mustBeFree(site, section, to);
  if (section === 'audiences' && RESERVED_WORDS.has(to))
    throw new Refused({ code: 'reserved-name', name: to });
  const kind = IN_CONDITIONS[section];
  const alone = BY_THEMSELVES[section];
  const following = [
    ...(kind && isKnownByName(site, section, name)
      ? changed(textsOfKind(site, 'condition'), (text) => renameInCondition(text, kind, name, to))
      : []),
    ...(alone ? changed(textsOfKind(site, alone), (text) => (text === name ? to : text)) : []),
    ...followAcceptances(site, entryWord(section), (one) => (one === name ? to : one)),
  ];
  return [...following, { op: 'move', from: pointer(section, name), path: pointer(section, to) }];
}

/** A person is known in conditions by an id, which is the visitor's name only where no other is given. */
function isKnownByName(site: SiteValue, section: string, name: string): boolean {
  if (section !== 'visitors') return true;
  const visitor = entriesOf(site, section)[name];
  return !isRecord(visitor) || visitor['id'] === undefined;
}

/** The replacements for texts that come out differently. */
export function changed(
  mentions: readonly Mention[],
  change: (text: string) => string,
): PatchOperation[] {
  return mentions.flatMap(({ path, text }): PatchOperation[] => {
    const value = change(text);
    return value === text ? [] : [{ op: 'replace', path: pointer(...path), value }];
  });
}

/** Accepted findings say what they are about, such as `gate crew-room`, or several with commas between. */
export function followAcceptances(
  site: SiteValue,
  word: string,
  change: (name: string) => string,
): PatchOperation[] {
  return changed(textsAt(site, 'accepted', '*', 'about'), (about) => {
    const [kind = '', ...names] = about.split(' ');
    return kind === word ? `${kind} ${names.join(' ').split(', ').map(change).join(', ')}` : about;
  });
}
