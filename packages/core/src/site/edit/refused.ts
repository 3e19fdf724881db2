import { isRecord } from '../fields/schema-kinds.ts';
import type { SiteValue } from './edit.ts';

/** An edit can't be made: what it needs is not there, or what it makes is there already. */
export class Refused extends Error {}

/** The entries of a part of a site file. */
export function entriesOf(site: SiteValue, section: string): Readonly<Record<string, unknown>> {
  const entries = site[section];
  return isRecord(entries) ? entries : {};
}

/** What one entry of each part is called. */
export const ENTRY_WORD: Readonly<Record<string, string>> = {
  site: 'site',
  roles: 'role',
  groups: 'group',
  products: 'product',
  audiences: 'audience',
  pages: 'page',
  gates: 'gate',
  parts: 'part',
  menus: 'menu',
  visitors: 'visitor',
  redirects: 'redirect',
  'redirect-lists': 'list of redirects',
  rewrites: 'rewrite',
  'not-found': 'not-found rule',
  landings: 'landing',
  accepted: 'acceptance',
};

export function mustBeThere(site: SiteValue, section: string, name: string): void {
  if (Object.hasOwn(entriesOf(site, section), name)) return;
  throw new Refused(`There is no ${ENTRY_WORD[section]} "${name}" any more.`);
}

export function mustBeFree(site: SiteValue, section: string, name: string): void {
  if (name === '') throw new Refused(`A ${ENTRY_WORD[section]} needs a name.`);
  if (Object.hasOwn(entriesOf(site, section), name))
    throw new Refused(`There is a ${ENTRY_WORD[section]} "${name}" already.`);
}
