import type { Site } from '../../model/site.ts';
import type { Tidy } from '../../model/tidy.ts';
import { isRecord, type SiteValue } from '../../model/plain-value.ts';
import { isTimeZone } from '../../time/instant.ts';
import { siteSchema } from '../fields/site-schema.ts';
import { ErrorList, type Places } from '../yaml/document.ts';
import { buildTidy } from './build-tidy.ts';
import type { KnownNames } from './condition-reader.ts';
import { FieldReader } from './field-reader.ts';
import { hasShape } from './has-shape.ts';
import type * as yup from 'yup';

/** The names that conditions of a site may use. */
export const namesOf = (site: SiteValue | Site): KnownNames => ({
  role: keysOf(site.roles),
  group: keysOf(site.groups),
  product: keysOf(site.products),
  audience: keysOf(site.audiences),
});

const keysOf = (value: unknown): string[] => (isRecord(value) ? Object.keys(value) : []);

/**
 * A reader of texts as they would stand in a site file, with its names, time zone and tidying rules.
 *
 * @param site the site file as plain values; it may have errors, which are not told here
 */
export function readerFor(site: SiteValue, list: ErrorList): FieldReader {
  const entry = headOf(site);
  const timeZone = entry?.['time-zone'] ?? 'UTC';
  const zone = isTimeZone(timeZone) ? timeZone : 'UTC';
  return new FieldReader(list, namesOf(site), zone, buildTidy(entry?.tidy));
}

/** The tidying rules of a site file; those of a site without any where it has errors there. */
export const tidyOf = (site: SiteValue): Tidy => buildTidy(headOf(site)?.tidy);

function headOf(site: SiteValue): yup.InferType<typeof siteSchema> | null {
  const head = site['site'];
  const unused = new ErrorList('site', [], NO_PLACES);
  return hasShape(siteSchema, head, ['site'], unused)
    ? (head as yup.InferType<typeof siteSchema>)
    : null;
}

const nowhere = () => ({ line: 1, column: 1 });
const NO_PLACES: Places = { valueAt: nowhere, keyAt: nowhere, within: nowhere };
