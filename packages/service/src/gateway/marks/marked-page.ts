import type { ServerResponse } from 'node:http';
import { PassThrough, Writable, type Transform } from 'node:stream';
import { createBrotliDecompress, createUnzip } from 'node:zlib';
import type { RawFields } from '../fields.ts';
import { MARK, rewriteMarks, type MarkSight } from './rewrite.ts';

/** As much of a page is held back to see whether it has marks, for as many milliseconds. */
const MOST_HELD = 128 * 1024;
const LONGEST_HELD = 100;

/** Takes the coding off; null for one that is not known. */
function decoderFor(coding: string): Transform | null {
  switch (coding.trim().toLowerCase()) {
    case '':
    case 'identity':
      return new PassThrough();
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

/** An HTML answer of the website on its way to a visitor. */
export interface MarkedPage {
  readonly response: ServerResponse;
  readonly status: number;
  readonly coding: string;
  /** What goes before a page that has no marks, byte for byte. */
  readonly untouched: RawFields;
  /** What goes before one that has, or may have. */
  readonly changed: RawFields;
  readonly sees: MarkSight;
}

/**
 * Takes the bytes of a page as the website sends them, and gives the visitor theirs. A page without
 * marks goes on as it came. One that is too long or too slow to know goes on as one that may have some.
 * @returns null where the page comes in a coding that can't be taken off
 */
export function passMarked(page: MarkedPage): Writable | null {
  const { response, status } = page;
  const decoder = decoderFor(page.coding);
  if (!decoder) return null;
  const rewriting = rewriteMarks(page.sees);
  let raw: Buffer[] = [];
  let held: Buffer[] | null = [];
  let heldLength = 0;

  const give = (bytes: Buffer): void => {
    if (bytes.length > 0 && !response.write(bytes)) decoder.pause();
  };
  const begin = (): void => {
    clearTimeout(timer);
    response.writeHead(status, page.changed);
    const all = Buffer.concat(held!);
    held = null;
    raw = [];
    give(rewriting.write(all));
  };
  const timer = setTimeout(() => held && begin(), LONGEST_HELD);
  response.on('drain', () => decoder.resume());

  decoder.on('data', (chunk: Buffer) => {
    if (held === null) {
      give(rewriting.write(chunk));
      return;
    }
    held.push(chunk);
    heldLength += chunk.length;
    if (heldLength > MOST_HELD) begin();
  });
  const finished = new Promise<void>((resolve) => {
    decoder.on('end', () => {
      clearTimeout(timer);
      if (held !== null && !hasMarks(Buffer.concat(held))) {
        response.writeHead(status, page.untouched);
        response.end(Buffer.concat(raw));
      } else {
        if (held !== null) begin();
        response.end(rewriting.end());
      }
      resolve();
    });
  });
  const sink = new Writable({
    write: (chunk: Buffer, _, done) => {
      if (held !== null) raw.push(chunk);
      decoder.write(chunk, done);
    },
    final: (done) => {
      decoder.end();
      finished.then(() => done(), done);
    },
    destroy: (error, done) => {
      clearTimeout(timer);
      decoder.destroy();
      // An answer that breaks off must not look whole.
      if (!response.writableEnded) response.destroy();
      done(error);
    },
  });
  decoder.on('error', (error) => sink.destroy(error));
  sink.on('error', () => {});
  response.once('close', () => sink.destroy());
  return sink;
}

const hasMarks = (page: Buffer): boolean => page.toString('latin1').toLowerCase().includes(MARK);
