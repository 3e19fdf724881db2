import { siteFiles } from '@kleidon/core';
import { listsBeside } from '../lists.ts';
import { readText } from '../read-text.ts';
import type { KnownSite } from './candidates.ts';

/** What is known of a site file; nothing where it can't be read, since nobody asked for its errors. */
export function siteIn(file: string): KnownSite | null {
  const read = siteFiles.readSite(readText(file), file, listsBeside(file));
  if (!read.ok) return null;
  const { visitors, pages } = read.site;
  return {
    visitors: visitors.map(({ name, summary }) => ({ word: name, description: summary })),
    pages: pages.map(({ example, title }) => ({ word: example, description: title })),
  };
}
