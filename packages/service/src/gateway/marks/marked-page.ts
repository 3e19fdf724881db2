import type { ServerResponse } from 'node:http';
import { type Transform } from 'node:stream';
import { createBrotliDecompress, createUnzip } from 'node:zlib';
import type { RawFields } from '../fields.ts';
import type { Sink } from '../origin.ts';
import { MARK, rewriteMarks, type MarkSight, type Rewriting } from './rewrite.ts';

/** As much of a page is held back to see whether it has marks, for as many milliseconds. */
const MOST_HELD = 128 * 1024;
const LONGEST_HELD = 100;

/** An HTML answer of the website on its way to a visitor. */
export interface MarkedPage {
  readonly response: ServerResponse;
  readonly status: number;
  readonly coding: string;
  /** What goes before a page that has no marks, byte for byte. */
  readonly untouched: RawFields;
  /** What goes before one that has, or may have. */
  readonly changed: RawFields;
  readonly sees: () => MarkSight;
}

/**
 * Takes the bytes of a page as the website sends them, and gives the visitor theirs. A page without
 * marks goes on as it came. One that is too long or too slow to know goes on as one that may have some.
 * @returns null where the page comes in a coding that can't be taken off
 */
export function passMarked(page: MarkedPage): Sink | null {
  const coding = page.coding.trim().toLowerCase();
  const { response } = page;
  const isPlain = coding === '' || coding === 'identity';
  const decoder = isPlain ? null : decoderFor(coding);
  if (!decoder && !isPlain) return null;
  const reading = readMarked(page);
  if (!decoder)
    return {
      write: (chunk) => reading.take(chunk, chunk),
      end: reading.end,
      destroy: () => response.destroy(),
      on: (_, listener) => response.on('drain', listener),
    };
  decoder.on('data', (chunk: Buffer) => {
    if (!reading.take(chunk, null)) decoder.pause();
  });
  decoder.on('end', reading.end);
  // An answer that breaks off must not look whole.
  decoder.on('error', () => response.destroy());
  response.on('drain', () => decoder.resume());
  response.once('close', () => decoder.destroy());
  return {
    write: (chunk) => {
      reading.keep(chunk);
      return decoder.write(chunk);
    },
    end: () => decoder.end(),
    destroy: () => response.destroy(),
    on: (_, listener) => decoder.on('drain', listener),
  };
}

/** Takes a coding of content off (RFC 9110, 8.4.1); null for one that is not known. */
function decoderFor(coding: string): Transform | null {
  switch (coding) {
    case 'gzip':
    case 'x-gzip':
    case 'deflate':
      return createUnzip();
    case 'br':
      return createBrotliDecompress();
    default:
      return null;
  }
}

/** A page that is read until it is known whether it has marks, and from then on passed on. */
interface Reading {
  /** Keeps bytes as they came, for a page that turns out to have no marks. */
  keep(raw: Buffer): void;
  /** Takes text, and the bytes in which it came; false where the visitor does not keep up. */
  take(text: Buffer, raw: Buffer | null): boolean;
  end(): void;
}

function readMarked({ response, status, untouched, changed, sees }: MarkedPage): Reading {
  let rewriting: Rewriting | null = null;
  let raw: Buffer[] = [];
  let held: Buffer[] | null = [];
  let length = 0;

  const give = (bytes: Buffer): boolean => bytes.length === 0 || response.write(bytes);
  const begin = (): boolean => {
    clearTimeout(timer);
    response.writeHead(status, changed);
    const all = joined(held!);
    held = null;
    raw = [];
    rewriting = rewriteMarks(sees());
    return give(rewriting.write(all));
  };
  const timer = setTimeout(() => {
    // Whatever went wrong meanwhile may have been answered already.
    if (held !== null && !response.destroyed && !response.headersSent) begin();
  }, LONGEST_HELD);

  return {
    keep: (bytes) => {
      if (held !== null) raw.push(bytes);
    },
    take: (text, bytes) => {
      if (held === null) return give(rewriting!.write(text));
      if (bytes) raw.push(bytes);
      held.push(text);
      length += text.length;
      return length <= MOST_HELD || begin();
    },
    end: () => {
      clearTimeout(timer);
      if (held !== null && !HAS_MARKS.test(joined(held).toString('latin1'))) {
        response.writeHead(status, untouched);
        response.end(joined(raw));
        return;
      }
      if (held !== null) begin();
      response.end(rewriting!.end());
    },
  };
}

const HAS_MARKS = new RegExp(MARK, 'i');

const joined = (pieces: readonly Buffer[]): Buffer =>
  pieces.length === 1 ? pieces[0]! : Buffer.concat(pieces);
