import { type SiteValue, isRecord } from '../../model/plain-value.ts';
import { pointer } from '../yaml/pointer.ts';
import type { Edit } from '../../model/edit.ts';
import { put } from './put.ts';
import { entriesOf, mustBeThere } from './refused.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

/** What of a page is its own and not a setting. */
const OWN = ['title', 'aliases', 'example', 'leads-to', 'missing-unless', 'kind'];

/** Gives a page the settings of another, and puts it behind the gates that name the other. */
export function copySettings(
  { from, to }: Extract<Edit, { do: 'copy-settings' }>,
  site: SiteValue,
): PatchOperation[] {
  mustBeThere(site, 'pages', from);
  mustBeThere(site, 'pages', to);
  const pages = entriesOf(site, 'pages');
  const value = {
    ...fieldsWhere(fieldsOf(pages[to]), (field) => OWN.includes(field)),
    ...fieldsWhere(fieldsOf(pages[from]), (field) => !OWN.includes(field)),
  };
  const gates = Object.entries(entriesOf(site, 'gates')).flatMap(([name, gate]) =>
    isRecord(gate)
      ? ['at', 'under'].flatMap((field) =>
          standingAt(['gates', name, field], gate[field], from, to),
        )
      : [],
  );
  return [
    ...put({ do: 'put', section: 'pages', name: to, was: pages[to] ?? null, value }, site),
    ...gates,
  ];
}

/** A gate that names the one page names the other too; gates that the other has already stay. */
function standingAt(
  path: readonly string[],
  extent: unknown,
  from: string,
  to: string,
): PatchOperation[] {
  const addresses = extent === undefined ? [] : [extent].flat();
  if (!addresses.includes(from) || addresses.includes(to)) return [];
  return [{ op: 'replace', path: pointer(...path), value: [...addresses, to] }];
}

const fieldsOf = (page: unknown): Record<string, unknown> =>
  isRecord(page) ? page : { title: page };

const fieldsWhere = (
  fields: Record<string, unknown>,
  isWanted: (field: string) => boolean,
): Record<string, unknown> =>
  Object.fromEntries(Object.entries(fields).filter(([field]) => isWanted(field)));
