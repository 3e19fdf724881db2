import type { ExpectedVisit } from '../../model/expected-visit.ts';
import { GUEST, type Visitor } from '../../model/visitor.ts';
import { suggest } from '../../text/nearest.ts';
import type { EntryOf } from '../fields/entries.ts';
import type { YamlPath, SiteDocument } from '../yaml/document.ts';
import { buildVisitor } from './build-visitor.ts';
import type { FieldReader } from './field-reader.ts';

/** Builds an expected visit; whoever makes it is a visitor of the file, or declared with it. */
export function buildExpectedVisit(
  position: number,
  entry: EntryOf<'visits'>,
  visitors: readonly Visitor[],
  read: FieldReader,
  document: SiteDocument,
): ExpectedVisit {
  const path: YamlPath = ['visits', position];
  read.address(entry.address, [...path, 'address']);
  const { validFrom: at } = read.period(entry.at, undefined, path, 'at');
  return {
    name: `#${position + 1}`,
    address: entry.address,
    method: entry.method ?? 'GET',
    visitor: visitorOf(entry, visitors, path, read),
    at,
    outcome: entry.outcome ?? null,
    status: entry.status ?? null,
    final: entry.final ?? null,
    hops: entry.hops ?? null,
    note: entry.note ?? null,
    place: document.valueAt(path),
  };
}

function visitorOf(
  { as, visitor }: EntryOf<'visits'>,
  visitors: readonly Visitor[],
  path: YamlPath,
  read: FieldReader,
): Visitor {
  if (visitor !== undefined) return buildVisitor('someone', visitor, [...path, 'visitor'], read);
  const known = visitors.find(({ name }) => name === as);
  if (!known && as !== undefined)
    read.list.atValue([...path, 'as'], {
      code: 'unknown-visitor',
      name: as,
      suggestion: suggest(
        as,
        visitors.map(({ name }) => name),
      ),
    });
  return known ?? GUEST;
}
