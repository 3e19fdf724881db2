import { ENTRY_NAMES, type SectionName } from '../model/section.ts';

/** What of a difference its summary tells. */
interface Told {
  readonly kind: string;
  readonly is: 'gains' | 'loses' | 'otherwise';
  readonly about: string;
  readonly words: string;
}

/** What an entry is called that differs: `gate crew-room`, `setting time-zone`, `visitors`. */
export function nameOfChange(section: SectionName | 'site', name: string): string {
  if (section === 'site')
    return `setting ${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)}`;
  return name === '' ? section : `${ENTRY_NAMES[section]} ${name}`;
}

const COUNTED: Readonly<Record<string, readonly [one: string, many: string]>> = {
  page: ['page', 'pages'],
  'other-address': ['other address', 'other addresses'],
  redirect: ['redirect', 'redirects'],
  undeclared: ['address without a page', 'addresses without a page'],
  landing: ['landing', 'landings'],
  part: ['part', 'parts'],
  'menu-link': ['menu link', 'menu links'],
  'search-engines': ['page', 'pages'],
};

const SIGNS = { gains: '+', loses: '−', otherwise: '~' } as const;

/** The most lines of a summary; those for most come first. */
const MOST_LINES = 12;

/** What a change does: `+3 pages for anyone with the role ringer`; `~` is for what ends in another way. */
export function summaryOfChange(differences: readonly Told[]): string[] {
  const groups = new Map<string, { told: Told; about: Set<string> }>();
  for (const told of differences) {
    const key = JSON.stringify([told.is, told.kind, told.words]);
    const group = groups.get(key);
    if (group) group.about.add(told.about);
    else groups.set(key, { told, about: new Set([told.about]) });
  }
  const all = [...groups.values()].sort((a, b) => b.about.size - a.about.size);
  const lines = all.slice(0, MOST_LINES).map(({ told: { is, kind, words }, about }) => {
    const [one, many] = COUNTED[kind]!;
    return `${SIGNS[is]}${about.size} ${about.size === 1 ? one : many} for ${words}`;
  });
  const left = all.length - lines.length;
  return left > 0 ? [...lines, `and ${left} more`] : lines;
}
