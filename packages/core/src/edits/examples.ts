import { matchForm } from '../address/tidy.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { sampleAddress } from '../findings/redirect-samples.ts';
import { lookUp } from '../pattern/index-of-patterns.ts';
import { exampleOf } from '../site/example.ts';
import { isRecord } from '../site/schema.ts';
import type { Edit } from './edit.ts';

const MOST = 5;

/**
 * Addresses that show what edits of redirects, rewrites and not-found rules come to, one for each edit.
 * @param prepared the site as it is with the edits
 */
export function examplesOf(prepared: PreparedSite, edits: readonly Edit[]): string[] {
  return edits
    .flatMap((edit) => {
      if (edit.do === 'put-item') return exampleFor(prepared, edit.section, edit.value);
      return edit.do === 'put-items'
        ? edit.items.flatMap(({ value }) => exampleFor(prepared, edit.section, value))
        : [];
    })
    .slice(0, MOST);
}

function exampleFor({ site, pages }: PreparedSite, section: string, value: unknown): string[] {
  if (!isRecord(value)) return [];
  if (section === 'redirects') {
    const { from, to } = value;
    const rule = site.redirects.find((one) => one.name === from && one.to.text === to);
    return rule ? [sampleAddress(rule)] : [];
  }
  if (section === 'rewrites') {
    const rule = site.rewrites.find(({ name }) => name === value['from']);
    return rule ? [exampleOf(rule.pattern, null)] : [];
  }
  if (section !== 'not-found') return [];
  const rule = site.notFound.find(({ name }) => name === value['under']);
  if (!rule) return [];
  const beneath = exampleOf(rule.extent.pattern, null).replace(/\/$/, '');
  // The section itself may well be there; something beneath it that nobody named is not.
  const isThere = lookUp(pages, matchForm(beneath || '/', site.tidy)).length > 0;
  return [isThere ? `${beneath}/no-such-page` : beneath];
}
