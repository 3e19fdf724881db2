import { type SiteValue, isRecord } from '../../model/plain-value.ts';
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
  const { from, to, beneath, redirect } = edit;
  mustBeThere(site, 'pages', from);
  if (to === from) return [];
  if (!to.startsWith('/')) throw new Refused({ code: 'not-of-this-site', address: to });
  const pages = Object.keys(entriesOf(site, 'pages'));
  const moving = pages.filter((address) => movedTo(edit, address) !== address);
  moving.forEach((address) => mustBeFree(site, 'pages', movedTo(edit, address)));
  const hasBeneath = pages.some((address) => address.startsWith(`${from}/`));
  // What is beneath stays behind its gate, so the gate stays there too and covers the new address besides.
  const isSplit = hasBeneath && !beneath;
  const follow = (text: string): string => movedTo(edit, text);
  const mentions = textsOfKind(site, 'address');
  const scopes = textsOfKind(site, 'scope');
  const single = scopes.filter(({ path }) => !isSplit || path[2] !== 'under');
  return [
    ...changed([...mentions, ...single], follow),
    ...changed(textsAt(site, 'pages', '*', 'example'), (text) =>
      beneath ? movedTo(edit, text) : text,
    ),
    ...changed(textsAt(site, 'pages', from, 'example'), (text) => exampleAt(from, to, text)),
    ...(isSplit ? alsoUnder(site, scopes, from, to) : []),
    ...followAcceptances(site, 'page', follow),
    ...moving.map((address): PatchOperation => ({
      op: 'move',
      from: pointer('pages', address),
      path: pointer('pages', movedTo(edit, address)),
    })),
    ...withoutRedirectsFrom(site, beneath ? [to, `${to}/*`] : [to]),
    ...(redirect ? redirectsFor(from, to, beneath && hasBeneath) : []),
  ];
}

/** The new addresses of the pages that edits move, by the old. */
export function movedPages(
  edits: readonly Edit[],
  addresses: readonly string[],
): Map<string, string> {
  const moves = edits.filter((edit): edit is MovePage => edit.do === 'move-page');
  const ends = addresses.map(
    (address) => [address, moves.reduce((at, move) => movedTo(move, at), address)] as const,
  );
  return new Map(ends.filter(([from, to]) => from !== to));
}

/** An address after the move; a query or fragment behind it stays. */
function movedTo({ from, to, beneath }: MovePage, address: string): string {
  const rest = address.slice(from.length);
  const isIt = address.startsWith(from) && (rest === '' || /^[?#]/.test(rest));
  const isBeneath = beneath && from !== '/' && address.startsWith(`${from}/`);
  return isIt || isBeneath ? to + rest : address;
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
  from: string,
  to: string,
): PatchOperation[] {
  return scopes
    .filter(({ path, text }) => path[2] === 'under' && path[0] === 'gates' && text === from)
    .map(({ path }): PatchOperation => {
      const gate = entriesOf(site, 'gates')[String(path[1])];
      const under = isRecord(gate) ? [gate['under']].flat() : [];
      return { op: 'replace', path: pointer(...path.slice(0, 3)), value: [...under, to] };
    });
}

/** A redirect that led away from the new addresses would hide the pages that are there now. */
function withoutRedirectsFrom(site: SiteValue, addresses: readonly string[]): PatchOperation[] {
  return textsAt(site, 'redirects', '*', 'from')
    .filter(({ text }) => addresses.includes(text))
    .reverse()
    .map(({ path }) => ({ op: 'remove', path: pointer(...path.slice(0, 2)) }));
}

function redirectsFor(from: string, to: string, beneath: boolean): PatchOperation[] {
  const add = (source: string, target: string): PatchOperation => ({
    op: 'add',
    path: '/redirects/-',
    value: { from: source, to: target, kind: 'permanent', note: 'the page moved' },
  });
  return [
    add(from, withoutGroups(to)),
    ...(beneath ? [add(`${from}/*`, `${withoutGroups(to)}/*`)] : []),
  ];
}

/** A target has pieces, and no expressions for what they may be. */
const withoutGroups = (pattern: string): string =>
  pattern.replace(/(:[\p{L}_][\p{L}\p{N}_]*)\((?:\\.|[^\\)])*\)/gu, '$1');
