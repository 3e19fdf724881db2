import { asList } from '../fields/as-list.ts';
import type { YamlPath } from '../yaml/document.ts';
import type { FieldReader } from './field-reader.ts';
import type { Scope } from '../../model/site.ts';

type Texts = string | readonly string[] | undefined;

/** Where a rule stands: the sections and single addresses of `under` and `at`. */
export const buildScopes = (
  entry: { readonly under?: Texts; readonly at?: Texts },
  read: FieldReader,
  path: YamlPath,
): Scope[] =>
  (['under', 'at'] as const).flatMap((field) =>
    asList(entry[field]).flatMap((text, position): Scope[] => {
      const place =
        typeof entry[field] === 'string' ? [...path, field] : [...path, field, position];
      const pattern = read.pagePattern(text, place);
      return pattern ? [{ pattern, under: field === 'under' }] : [];
    }),
  );
