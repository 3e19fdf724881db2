import { isRecord } from '../model/plain-value.ts';
import { normalizePath } from '../address/tidy.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { exampleOf, exampleOfRedirect } from '../pattern/example.ts';
import type { Edit } from '../model/edit.ts';

const MOST = 5;

/**
 * Addresses that show what edits of redirects, rewrites and not-found rules come to, one for each edit.
 * @param prepared the site as it is with the edits
 */
export function examplesOf(prepared: PreparedSite, edits: readonly Edit[]): string[] {
  const edited = edits.flatMap((edit): { section: string; value: unknown }[] => {
    if (edit.do === 'put-item') return [edit];
    const { section, items } = edit.do === 'put-items' ? edit : { section: '', items: [] };
    return items.slice(0, MOST).map(({ value }) => ({ section, value }));
  });
  return edited
    .slice(0, MOST)
    .flatMap(({ section, value }) => exampleFor(prepared, section, value));
}

function exampleFor({ site, pages }: PreparedSite, section: string, value: unknown): string[] {
  if (!isRecord(value)) return [];
  if (section === 'redirects') {
    const { from, to } = value;
    const rule = site.redirects.find((one) => one.source === from && one.to.text === to);
    return rule ? [exampleOfRedirect(rule)] : [];
  }
  if (section === 'rewrites') {
    const rule = site.rewrites.find(({ source: name }) => name === value['from']);
    return rule ? [exampleOf(rule.pattern, null)] : [];
  }
  if (section !== 'not-found') return [];
  const rule = site.notFound.find(({ name }) => name === value['under']);
  if (!rule) return [];
  const beneath = exampleOf(rule.scope.pattern, null).replace(/\/$/, '');
  // The section itself may well be there; something beneath it that nobody named is not.
  const isThere = rulesAt(pages, normalizePath(beneath || '/', site.tidy)).length > 0;
  return [isThere ? `${beneath}/no-such-page` : beneath];
}
