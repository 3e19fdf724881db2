import type * as yup from 'yup';
import { normalizePath } from '../../address/tidy.ts';
import { canonicalPath } from '../../address/canonical-path.ts';
import { literalOf } from '../../model/pattern.ts';
import type { ErrorList, YamlPath } from '../yaml/document.ts';
import type { FieldReader } from './field-reader.ts';
import type { siteSchema } from '../fields/site-schema.ts';
import type { Page } from '../../model/site.ts';
import {
  USUAL_TIDY,
  type Tidy,
  AMBIGUOUS_CHARACTERS,
  type AmbiguousCharacter,
} from '../../model/tidy.ts';

type TidyEntry = yup.InferType<typeof siteSchema>['tidy'];

/** The tidying rules of a site, with what holds where nothing is said. */
export function buildTidy(entry: TidyEntry): Tidy {
  const isLower = (entry?.case ?? USUAL_TIDY.case) === 'lower';
  const cased = (one: string): string => (isLower ? one.toLowerCase() : one);
  const tidy: Tidy = {
    case: entry?.case ?? USUAL_TIDY.case,
    finalSlash: entry?.['final-slash'] ?? USUAL_TIDY.finalSlash,
    endings: (entry?.endings ?? []).map(cased),
    index: (entry?.index ?? []).filter((one) => !one.startsWith('/')).map(cased),
    homes: [],
    words: entry?.words ?? USUAL_TIDY.words,
    allow: (entry?.allow ?? []).filter(isAmbiguousCharacter),
  };
  const homes = (entry?.index ?? [])
    .filter((one) => one.startsWith('/'))
    .map((one) => normalizePath(canonicalPath(one) ?? '/', tidy));
  return { ...tidy, homes: homes.filter((one) => one !== '/') };
}

const isAmbiguousCharacter = (text: string): text is AmbiguousCharacter =>
  (AMBIGUOUS_CHARACTERS as readonly string[]).includes(text);

/** Finds what can be no ending, index name or allowed character. */
export function checkTidy(entry: TidyEntry, read: FieldReader): void {
  const path: YamlPath = ['site', 'tidy'];
  (entry?.endings ?? []).forEach((ending, position) => {
    if (/^\.[\w-]+$/.test(ending)) return;
    read.list.atValue([...path, 'endings', position], { code: 'not-an-ending', text: ending });
  });
  (entry?.allow ?? []).forEach((character, position) => {
    if (isAmbiguousCharacter(character)) return;
    read.list.atValue([...path, 'allow', position], {
      code: 'not-refused',
      character,
      choices: AMBIGUOUS_CHARACTERS,
    });
  });
  (entry?.index ?? []).forEach((index, position) => {
    const at = [...path, 'index', position];
    if (index.startsWith('/')) read.address(index, at);
    else if (!/^[\w.-]+$/.test(index)) {
      read.list.atValue(at, { code: 'not-an-index', text: index });
    }
  });
}

/** Every address is of one page: an alias is no page, no pattern, and no other page's alias. */
export function checkAliases(pages: readonly Page[], read: FieldReader, list: ErrorList): void {
  const taken = new Map(pages.map((page) => [read.matchFormOf(page.pattern), page.address]));
  const claim = (alias: string, owner: string, path: YamlPath): void => {
    const pattern = read.pagePattern(alias, path);
    if (!pattern) return;
    if (literalOf(pattern) === null) {
      list.atValue(path, { code: 'alias-is-pattern', alias });
      return;
    }
    const form = read.matchFormOf(pattern);
    const other = taken.get(form);
    if (other !== undefined) list.atValue(path, { code: 'alias-taken', alias, owner: other });
    else taken.set(form, owner);
  };
  for (const { address, aliases, pattern } of pages) {
    const path: YamlPath = ['pages', address, 'aliases'];
    if (aliases.length > 0 && literalOf(pattern) === null) {
      list.atKey(path, { code: 'alias-of-pattern' });
      continue;
    }
    aliases.forEach((alias, position) => claim(alias, address, [...path, position]));
  }
}
