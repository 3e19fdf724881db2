import { type SiteValue, isRecord } from '../../model/plain-value.ts';
import { canonicalPath } from '../../address/canonical-path.ts';
import { normalizePath } from '../../address/tidy.ts';
import type { Tidy } from '../../model/tidy.ts';
import { buildTidy } from '../read/build-tidy.ts';
import { pointer } from '../yaml/pointer.ts';
import type { Edit } from '../../model/edit.ts';
import { textsAt, textsOfKind, type Mention } from './mentions.ts';
import { entriesOf, mustBeFree, mustBeThere, Refused } from './refused.ts';
import { changed, followAcceptances } from './rename.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

type MovePage = Extract<Edit, { do: 'move-page' }>;

/**
 * Gives a page another address, with those beneath it where that is wanted. What names the old
 * address follows: gates, menus, landings, targets of redirects, where people are sent.
 *
 * @throws Refused where there is no such page, the new address is of another site, or a page has it
 */
export function movePage(edit: MovePage, site: SiteValue): PatchOperation[] {
  const { from, to, redirect } = edit;
  const beneath = movesBeneath(edit);
  mustBeThere(site, 'pages', from);
  if (to === from) return [];
  if (!to.startsWith('/')) throw new Refused({ code: 'not-of-this-site', address: to });
  const pages = Object.keys(entriesOf(site, 'pages'));
  const forms = addressForms(site);
  const follow = (text: string): string => movedTo(edit, text, forms);
  const moving = pages.filter((address) => follow(address) !== address);
  moving.forEach((address) => mustBeFree(site, 'pages', follow(address)));
  const hasBeneath = pages.some((address) => (forms.beyond(from, address) ?? 0) > 0);
  // What is beneath stays behind its gate, so the gate stays there too and covers the new address besides.
  const isSplit = hasBeneath && !beneath;
  const isAlias = (one: string): boolean => forms.beyond(to, one) === 0;
  const ownAlias = aliasesOf(site, from).find(isAlias);
  const mentions = textsOfKind(site, 'address');
  const scopes = textsOfKind(site, 'scope');
  const single = scopes.filter(({ path }) => !isSplit || path[2] !== 'under');
  return [
    ...changed([...mentions, ...single], follow),
    ...changed(textsAt(site, 'pages', '*', 'example'), (text) => (beneath ? follow(text) : text)),
    ...changed(textsAt(site, 'pages', from, 'example'), (text) => exampleAt(from, to, text)),
    ...(isSplit ? alsoUnder(site, scopes, forms, from, to) : []),
    ...followAcceptances(site, 'page', follow),
    ...(ownAlias ? withAliases(site, from, isAlias, redirect) : []),
    ...moving.map((address): PatchOperation => ({
      op: 'move',
      from: pointer('pages', address),
      path: pointer('pages', follow(address)),
    })),
    ...withoutRedirectsFrom(site, forms, beneath ? [to, `${to}/*`] : [to]),
    ...(redirect ? redirectsFor(from, to, beneath && hasBeneath, ownAlias !== undefined) : []),
  ];
}

/** The new addresses of the pages that edits move, by the old. */
export function movedPages(
  edits: readonly Edit[],
  addresses: readonly string[],
  site: SiteValue,
): Map<string, string> {
  const moves = edits.filter((edit): edit is MovePage => edit.do === 'move-page');
  const forms = addressForms(site);
  const ends = addresses.map(
    (address) => [address, moves.reduce((at, move) => movedTo(move, at, forms), address)] as const,
  );
  return new Map(ends.filter(([from, to]) => from !== to));
}

/** All pages are beneath the home page. They do not move with it. */
const movesBeneath = ({ from, beneath }: MovePage): boolean => beneath && from !== '/';

/** An address after the move; host, query and fragment stay. */
function movedTo(edit: MovePage, text: string, forms: AddressForms): string {
  const { from, to } = edit;
  const read = forms.read(text);
  if (read === null) return text;
  const count = forms.beyond(from, text);
  if (count === null || (count > 0 && !movesBeneath(edit))) return text;
  const steps = [
    to.replace(/\/$/, ''),
    ...segmentsOf(read.path).slice(segmentsOf(read.path).length - count),
  ];
  return `${read.host}${count === 0 ? to : steps.join('/')}${read.rest}`;
}

const segmentsOf = (path: string): string[] => path.split('/').filter((one) => one !== '');

/** Compares addresses in all spellings that the site accepts. */
interface AddressForms {
  /** The parts of an address of this site. Null for other texts. */
  read(
    text: string,
  ): { readonly host: string; readonly path: string; readonly rest: string } | null;
  /** The number of additional segments of an address. Null if it is not at or beneath `above`. */
  beyond(above: string, address: string): number | null;
}

function addressForms(site: SiteValue): AddressForms {
  const own = entriesOf(site, 'site');
  const tidy = tidyOf(own['tidy']);
  const inside = { ...tidy, endings: [], index: [], homes: [] };
  const hosts = [own['address'], ...[own['also'] ?? []].flat()].flatMap((one) =>
    URL.canParse(String(one)) ? [new URL(String(one)).host] : [],
  );
  const read: AddressForms['read'] = (text) => {
    const host = /^https?:\/\/[^/?#]*/i.exec(text)?.[0] ?? '';
    const isOwn = host === '' || (URL.canParse(host) && hosts.includes(new URL(host).host));
    const local = text.slice(host.length);
    if (!isOwn || (host === '' && !text.startsWith('/'))) return null;
    // In a pattern, a question mark may stand behind a piece.
    const end = /[{(]/.test(local) ? -1 : local.search(/[?#]/);
    return end === -1
      ? { host, path: local, rest: '' }
      : { host, path: local.slice(0, end), rest: local.slice(end) };
  };
  const segments = (text: string): readonly string[] => {
    const path = read(text)?.path ?? text;
    const all = segmentsOf(path);
    const isPattern = all.some((one) => SYNTAX.test(one));
    const form = isPattern ? null : canonicalPath(`/${all.join('/')}`);
    const parts = form === null ? all : segmentsOf(normalizePath(form, tidy));
    return parts.map((one) => {
      const canonical = SYNTAX.test(one) ? null : canonicalPath(`/${one}`);
      return canonical === null ? one : normalizePath(canonical, inside).slice(1);
    });
  };
  const beyond: AddressForms['beyond'] = (above, address) => {
    if (read(address) === null) return null;
    const [left, right] = [segments(above), segments(address)];
    return left.every((part, i) => part === right[i]) ? right.length - left.length : null;
  };
  return { read, beyond };
}

/** The signs of a pattern. */
const SYNTAX = /[:*(){}+\\]/;

/** The tidying of a site whose file may have errors. */
function tidyOf(entry: unknown): Tidy {
  try {
    return buildTidy(entry as Parameters<typeof buildTidy>[0]);
  } catch {
    return buildTidy(undefined);
  }
}

const aliasesOf = (site: SiteValue, page: string): readonly string[] => {
  const entry = entriesOf(site, 'pages')[page];
  const aliases = isRecord(entry) ? [entry['aliases'] ?? []].flat() : [];
  return aliases.filter((one): one is string => typeof one === 'string');
};

/** Moving a page to its own alias swaps the two, if the old address redirects. */
function withAliases(
  site: SiteValue,
  from: string,
  isTaken: (alias: string) => boolean,
  redirect: boolean,
): PatchOperation[] {
  const left = aliasesOf(site, from).filter((one) => !isTaken(one));
  const aliases = redirect ? [...left, from] : left;
  const path = pointer('pages', from, 'aliases');
  if (aliases.length === 0) return [{ op: 'remove', path }];
  return [{ op: 'replace', path, value: aliases }];
}

/** The example of a pattern whose literal beginning changes and whose pieces stay. */
function exampleAt(from: string, to: string, example: string): string {
  const [before, after] = [from, to].map((address) => /^[^:*(){}+?\\]*/.exec(address)![0]);
  const isSame = from.slice(before!.length) === to.slice(after!.length);
  return isSame && example.startsWith(before!) ? after! + example.slice(before!.length) : example;
}

function alsoUnder(
  site: SiteValue,
  scopes: readonly Mention[],
  forms: AddressForms,
  from: string,
  to: string,
): PatchOperation[] {
  return scopes
    .filter(
      ({ path, text }) =>
        path[2] === 'under' && path[0] === 'gates' && forms.beyond(from, text) === 0,
    )
    .map(({ path }): PatchOperation => {
      const gate = entriesOf(site, 'gates')[String(path[1])];
      const under = isRecord(gate) ? [gate['under']].flat() : [];
      return { op: 'replace', path: pointer(...path.slice(0, 3)), value: [...under, to] };
    });
}

/** A redirect that led away from the new addresses would hide the pages that are there now. */
function withoutRedirectsFrom(
  site: SiteValue,
  forms: AddressForms,
  addresses: readonly string[],
): PatchOperation[] {
  const isTaken = (text: string): boolean =>
    forms.read(text)?.rest === '' && addresses.some((one) => forms.beyond(one, text) === 0);
  return textsAt(site, 'redirects', '*', 'from')
    .filter(({ text }) => isTaken(text))
    .reverse()
    .map(({ path }) => ({ op: 'remove', path: pointer(...path.slice(0, 2)) }));
}

function redirectsFor(
  from: string,
  to: string,
  beneath: boolean,
  isAlias: boolean,
): PatchOperation[] {
  const add = (source: string, target: string): PatchOperation => ({
    op: 'add',
    path: '/redirects/-',
    value: { from: source, to: target, kind: 'permanent', note: 'the page moved' },
  });
  return [
    ...(isAlias ? [] : [add(from, withoutGroups(to))]),
    ...(beneath ? [add(`${from}/*`, `${withoutGroups(to)}/*`)] : []),
  ];
}

/** A target has pieces, and no expressions for what they may be. */
const withoutGroups = (pattern: string): string =>
  pattern.replace(/(:[\p{L}_][\p{L}\p{N}_]*)\((?:\\.|[^\\)])*\)/gu, '$1');
