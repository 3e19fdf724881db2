import { existsSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { formats } from '@kleidon/core';
import { EXIT, Stop } from './exit.ts';
import { textOf } from './read-text.ts';

/** The sizes that sitemaps.org allows a file, unpacked, and an index. */
const MAX_BYTES = 50 * 1024 * 1024;
const MAX_FILES = 50_000;
const TIMEOUT = 30_000;
/** What all files of an index may come to together. */
const MOST_IN_ALL = { bytes: 256 * 1024 * 1024, addresses: 1_000_000, seconds: 600 };

/**
 * All page addresses of a sitemap; an index is followed one level down, as its format allows.
 * @param source a file or an http(s) address; gzip is recognised by its first bytes
 */
export async function gatherSitemap(source: string): Promise<string[]> {
  const first = await read(source);
  const end = Date.now() + MOST_IN_ALL.seconds * 1000;
  let bytes = first.size;
  if (first.is === 'urls') return [...first.locations];
  if (first.locations.length > MAX_FILES) {
    throw new Stop(
      EXIT.failed,
      `${source} names ${first.locations.length} files; a sitemap index has at most ${MAX_FILES}.`,
    );
  }
  const addresses: string[] = [];
  for (const location of first.locations) {
    const part = await read(partOf(source, location));
    bytes += part.size;
    const limit =
      bytes > MOST_IN_ALL.bytes
        ? `${MOST_IN_ALL.bytes / 1024 / 1024} MiB`
        : addresses.length + part.locations.length > MOST_IN_ALL.addresses
          ? `${MOST_IN_ALL.addresses} addresses`
          : Date.now() > end
            ? `${MOST_IN_ALL.seconds} seconds`
            : null;
    if (limit !== null)
      throw new Stop(
        EXIT.failed,
        `The files that ${source} names come to more than ${limit}. Import them one by one.`,
      );
    if (part.is === 'index')
      throw new Stop(
        EXIT.failed,
        `${location} is an index inside an index, which the format does not have.`,
      );
    // Not spread into push(): a sitemap may hold more addresses than a call may have arguments.
    for (const address of part.locations) addresses.push(address);
  }
  return addresses;
}

async function read(
  source: string,
): Promise<ReturnType<typeof formats.readSitemap> & { readonly size: number }> {
  const bytes = unpack(isAddress(source) ? await download(source) : load(source), source);
  try {
    return { ...formats.readSitemap(decoded(bytes, source)), size: bytes.length };
  } catch (error) {
    if (!(error instanceof formats.SitemapProblem)) throw error;
    throw new Stop(EXIT.failed, `${source}: ${error.message}`);
  }
}

/** The text of an XML file, in the encoding that it declares. */
function decoded(bytes: Buffer, source: string): string {
  const head = bytes.subarray(0, 200).toString('latin1');
  const declared = /^<\?xml[^>]*\bencoding\s*=\s*["']([\w.:-]+)["']/.exec(head)?.[1] ?? 'utf-8';
  if (/^utf-?(?:8|16)/i.test(declared)) return textOf(bytes, source).replace(/^\ufeff/, '');
  try {
    return new TextDecoder(declared, { fatal: true }).decode(bytes);
  } catch {
    throw new Stop(
      EXIT.failed,
      `${source} can't be read in ${declared}, the encoding that it declares.`,
    );
  }
}

/**
 * Where a file that an index names is. The files of a host's index are on that host (sitemaps.org): an
 * index must not lead to other hosts, nor to files of this machine. An index on this machine may have its
 * files beside it, whatever their addresses on the site are.
 */
function partOf(source: string, location: string): string {
  if (isAddress(source)) {
    if (isAddress(location) && isSameHost(source, location)) return location;
    throw new Stop(
      EXIT.failed,
      `${source} names ${location}, which is not on its own host. Import that file by itself, if it is to be read.`,
    );
  }
  const name = URL.canParse(location) ? basename(new URL(location).pathname) : basename(location);
  const file = join(dirname(source), name);
  return existsSync(file) ? file : location;
}

const isAddress = (source: string): boolean => /^https?:\/\//i.test(source);

function load(file: string): Buffer {
  try {
    return readFileSync(file);
  } catch (error) {
    throw new Stop(
      EXIT.wrongUse,
      `The sitemap ${file} can't be read: ${(error as Error).message}.`,
    );
  }
}

const isSameHost = (one: string, other: string): boolean =>
  URL.canParse(one) && URL.canParse(other) && new URL(one).hostname === new URL(other).hostname;

const MOST_REDIRECTS = 5;

async function download(address: string, redirects = 0): Promise<Buffer> {
  let response: Response;
  try {
    response = await fetch(address, { redirect: 'manual', signal: AbortSignal.timeout(TIMEOUT) });
  } catch (error) {
    const cause = (error as Error).cause ?? error;
    throw new Stop(
      EXIT.unreachable,
      `${address} can't be reached: ${(cause as Error).message || 'no answer'}.`,
    );
  }
  const location = response.headers.get('Location');
  if (response.status >= 300 && response.status < 400 && location !== null) {
    const next = URL.canParse(location, address) ? new URL(location, address).href : location;
    if (!isAddress(next) || !isSameHost(address, next) || redirects === MOST_REDIRECTS)
      throw new Stop(EXIT.failed, `${address} redirects to ${next}, which is not followed.`);
    return download(next, redirects + 1);
  }
  if (!response.ok) throw new Stop(EXIT.failed, `${address} answered ${response.status}.`);
  const chunks: Uint8Array[] = [];
  let size = 0;
  try {
    for await (const chunk of response.body ?? []) {
      size += (chunk as Uint8Array).length;
      if (size > MAX_BYTES)
        throw new Stop(EXIT.failed, `${address} is larger than ${MAX_BYTES / 1024 / 1024} MiB.`);
      chunks.push(chunk as Uint8Array);
    }
  } catch (error) {
    if (error instanceof Stop) throw error;
    // Cut off, or not compressed as its header says.
    const cause = (error as Error).cause ?? error;
    throw new Stop(
      EXIT.failed,
      `${address} can't be read to its end: ${(cause as Error).message}.`,
    );
  }
  return Buffer.concat(chunks);
}

function unpack(bytes: Buffer, source: string): Buffer {
  const isGzip = bytes[0] === 0x1f && bytes[1] === 0x8b;
  if (!isGzip) return bytes;
  try {
    return gunzipSync(bytes, { maxOutputLength: MAX_BYTES });
  } catch (error) {
    const isLarge = (error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE';
    const why = isLarge
      ? `it is larger than ${MAX_BYTES / 1024 / 1024} MiB`
      : (error as Error).message;
    throw new Stop(EXIT.failed, `${source} can't be unpacked: ${why}.`);
  }
}
