import { isRecord } from '../fields/schema-kinds.ts';
import type { YamlPath } from '../yaml/document.ts';

/** A text of a site file, with where it is. */
export interface Mention {
  readonly path: YamlPath;
  readonly text: string;
}

/** `*` stands for any entry; a field that may hold one text or a list of them is found either way. */
type Places = readonly (readonly string[])[];

/** Where a site file has conditions. */
const CONDITIONS: Places = [
  ['site', 'full-access'],
  ['audiences', '*'],
  ['pages', '*', 'missing-unless'],
  ['gates', '*', 'admit'],
  ['gates', '*', 'otherwise', '*', 'who'],
  ['redirects', '*', 'when'],
  ['rewrites', '*', 'when'],
  ['landings', '*', 'who'],
  ['parts', '*', 'admit'],
];

/** Where a site file names addresses of its own pages, the pages themselves and `from` apart. */
const ADDRESSES: Places = [
  ['site', 'sign-in'],
  ['products', '*', 'buy-at'],
  ['pages', '*', 'leads-to'],
  ['gates', '*', 'otherwise', '*', 'to'],
  ['gates', '*', 'otherwise', '*', 'show'],
  ['redirects', '*', 'to'],
  ['rewrites', '*', 'serve'],
  ['not-found', '*', 'show'],
  ['landings', '*', 'go'],
  ['menus', '*', 'links'],
];

/** Where rules say for which addresses they are. */
const EXTENTS: Places = [
  ['gates', '*', 'at'],
  ['gates', '*', 'under'],
  ['not-found', '*', 'under'],
  ['menus', '*', 'on'],
];

const find =
  (places: Places) =>
  (value: unknown): Mention[] =>
    places.flatMap((place) => findAt(value, place, []));

export const conditionsIn = find(CONDITIONS);
export const addressesIn = find(ADDRESSES);
export const extentsIn = find(EXTENTS);

/** The texts at places that a rename of one kind of name has to follow. */
export const textsAt = (value: unknown, ...place: string[]): Mention[] => findAt(value, place, []);

function findAt(value: unknown, place: readonly string[], path: YamlPath): Mention[] {
  const [step, ...rest] = place;
  if (step === undefined) {
    if (typeof value === 'string') return [{ path, text: value }];
    return Array.isArray(value) ? value.flatMap((item, i) => findAt(item, [], [...path, i])) : [];
  }
  if (step !== '*') return isRecord(value) ? findAt(value[step], rest, [...path, step]) : [];
  if (Array.isArray(value)) return value.flatMap((item, i) => findAt(item, rest, [...path, i]));
  if (!isRecord(value)) return [];
  return Object.entries(value).flatMap(([key, item]) => findAt(item, rest, [...path, key]));
}
