import type { Pool } from '../../analysis/pool.ts';
import { Problem } from '../../calls/problem.ts';
import { OriginProblem } from '../origin/origin.ts';
import type { ContentKind } from './content-kind.ts';
import { UnclearPage, type MarkedPage } from './marked-page.ts';
import { pageText } from './page-text.ts';
import { readHtml } from './read-html.ts';
import { readXml } from './read-xml.ts';

export type PageKind = Extract<ContentKind, { readonly is: 'html' | 'xml' }>;

/** A page as a thread reads it. */
export interface PageJob {
  readonly content: Uint8Array;
  readonly kind: PageKind;
}

/** What is marked in a page; or why that is not clear. */
export type PageResult = { readonly marked: MarkedPage } | { readonly unclear: string };

/**
 * Finds what is marked in a page.
 *
 * @param client who waits for it
 * @throws UnclearPage; OriginProblem where too many pages are waiting
 */
export type PageReader = (
  content: Buffer,
  kind: PageKind,
  client: string,
) => MarkedPage | Promise<MarkedPage>;

/** Bytes of a page that is read at once; it takes about as many microseconds. */
const SHORT = 16 * 1024;

/** Reads short pages at once, and others in threads in which clients take turns. */
export const pageReader =
  (pool: Pool): PageReader =>
  (content, kind, client) =>
    content.length <= SHORT
      ? readPage(content, kind)
      : pool.run(client, { content, kind } satisfies PageJob).then(
          (value) => {
            const result = value as PageResult;
            if ('marked' in result) return result.marked;
            throw new UnclearPage(result.unclear);
          },
          (error: unknown) => {
            if (error instanceof Problem && error.code === 'too-busy')
              throw new OriginProblem(503, error);
            throw new UnclearPage(`it could not be read: ${(error as Error).message}`);
          },
        );

/** Finds what is marked in a page, at once. */
export function readPage(content: Uint8Array, { is, charset }: PageKind): MarkedPage {
  const text = pageText(Buffer.from(content.buffer, content.byteOffset, content.length), charset);
  return is === 'html' ? readHtml(text) : readXml(text);
}
