import * as yup from 'yup';
import { buildVisitor } from './build-visitor.ts';
import { ErrorList, readDocument } from '../yaml/document.ts';
import { FieldReader } from './field-reader.ts';
import { namesOf } from './reader-for.ts';
import type { SiteError } from '../../model/site-error.ts';
import { hasShape } from './has-shape.ts';
import { visitorSchema } from '../fields/visitor-schema.ts';
import type { Site } from '../../model/site.ts';
import type { Visitor } from '../../model/visitor.ts';

export type ReadVisitor =
  | { readonly ok: true; readonly visitor: Visitor }
  | { readonly ok: false; readonly errors: readonly SiteError[] };

/**
 * Reads a visitor made up on the spot, in the shape that visitors have in a site file.
 *
 * @param text YAML or JSON, such as `{ roles: [warden] }`
 * @param site whose roles, groups and products it may use
 */
export function readVisitor(text: string, site: Site, name = 'someone'): ReadVisitor {
  const document = readDocument(text, 'visitor');
  const list = new ErrorList('visitor', document.errors, document);
  const value = document.value ?? {};
  if (document.errors.length > 0 || !hasShape(visitorSchema as yup.Schema, value, [], list)) {
    return { ok: false, errors: list.errors };
  }
  const read = new FieldReader(list, namesOf(site), site.timeZone, site.tidy);
  const visitor = buildVisitor(name, value as yup.InferType<typeof visitorSchema>, [], read);
  return list.errors.length > 0 ? { ok: false, errors: list.errors } : { ok: true, visitor };
}
