import type { ServerResponse } from 'node:http';
import type { Transform } from 'node:stream';
import { createBrotliDecompress, createUnzip } from 'node:zlib';
import type { RawFields } from '../origin/fields.ts';
import { OriginProblem, type Sink } from '../origin/origin.ts';
import type { ContentKind } from './content-kind.ts';
import { UnclearPage, withoutHidden, type MarkupVisibility } from './marked-page.ts';
import type { PageKind, PageReader } from './page-reader.ts';
import { mayHaveMarks } from './page-text.ts';

/** As much of a page is held until it is known what in it is marked. */
const LONGEST_PAGE = 8 * 1024 * 1024;
/** Where a site has no parts, a page that is longer or slower than this goes on while it comes. */
const LONGEST_HELD = 128 * 1024;
const LONGEST_WAIT = 100;
/** As much of a page that goes on is held back: a tag that has a mark stands in it as a whole. */
const HELD_BACK = 64 * 1024;

const TOO_SLOW = 'it is too long or too slow to be read before it is passed on, and has marks';
const TOO_LATE = 'The website did not complete a page that may have marks within';
const TOO_LONG = `it is longer than ${LONGEST_PAGE} bytes, and has marks`;

/** A response on its way to a visitor that may have marks. */
export interface PassedPage {
  readonly response: ServerResponse;
  readonly status: number;
  readonly kind: ContentKind;
  readonly coding: string;
  /** What goes before a page that has no marks, byte for byte. */
  readonly untouched: RawFields;
  /** What goes before one that has, or may have. */
  readonly changed: () => RawFields;
  /** The site file has parts or menus: nothing goes out before all of it was read. */
  readonly hasParts: boolean;
  readonly sees: () => MarkupVisibility;
  /** How long a page may take to be complete while it is held, in milliseconds. */
  readonly patience: number;
  /** Finds what is marked; of a long page, in another thread. */
  readonly read: (content: Buffer, kind: PageKind) => ReturnType<PageReader>;
  /** Ends the request at the website, of which nothing more is wanted. */
  readonly fail: (problem: Error) => void;
}

/** Where the content of a page goes, and when all of it has gone through. */
export interface PassedSink extends Sink {
  /** Rejects with UnclearPage where the page can't be read with certainty. */
  readonly done: Promise<void>;
}

/**
 * Takes the bytes of a response as the website sends them, and gives the visitor theirs. One without marks
 * goes on as it came.
 * @returns null where it comes in a coding that is not known
 */
export function passPage(page: PassedPage): PassedSink | null {
  const coding = page.coding.trim().toLowerCase();
  const { response } = page;
  const isPlain = coding === '' || coding === 'identity';
  const decoder = isPlain ? null : decoderFor(coding);
  if (!decoder && !isPlain) return null;
  const { promise: done, resolve, reject } = promised();
  const reading = readPage(
    page,
    (problem) => {
      page.fail(problem);
      reject(problem);
    },
    resolve,
  );
  response.once('close', () => {
    reading.stop();
    decoder?.destroy();
    resolve();
  });
  if (!decoder)
    return {
      done,
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
  return {
    done,
    write: (chunk) => {
      reading.keep(chunk);
      return decoder.write(chunk);
    },
    end: () => decoder.end(),
    destroy: () => response.destroy(),
    on: (_, listener) => decoder.on('drain', listener),
  };
}

/** A promise that is kept, or broken, from outside; nobody need listen to it. */
function promised(): { promise: Promise<void>; resolve(): void; reject(problem: Error): void } {
  let resolve = (): void => undefined;
  let reject: (problem: Error) => void = () => undefined;
  const promise = new Promise<void>((keep, fail) => {
    resolve = keep;
    reject = fail;
  });
  promise.catch(() => undefined);
  return { promise, resolve, reject };
}

/** Decodes the content (RFC 9110, 8.4.1); null for a coding that is not known. */
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

interface Reading {
  /** The visitor has left. */
  stop(): void;
  /** Keeps bytes as they came, for a page that turns out to have no marks. */
  keep(raw: Buffer): void;
  /** Takes content, and the bytes in which it came; false where the visitor does not keep up. */
  take(content: Buffer, raw: Buffer | null): boolean;
  end(): void;
}

function readPage(page: PassedPage, fail: (problem: Error) => void, onDone: () => void): Reading {
  const { response, status, untouched, changed, hasParts, patience } = page;
  let raw: Buffer[] = [];
  let held: Buffer[] = [];
  let length = 0;
  let hasMarks = false;
  /** It goes on while it comes; nothing marked has come so far. */
  let isStreaming = false;
  let isOver = false;
  const stop = (): void => {
    clearTimeout(timer);
    clearTimeout(deadline);
  };
  const unclear = (problem: Error): void => {
    isOver = true;
    stop();
    fail(problem);
  };
  const finish = (): void => {
    if (!isOver) onDone();
    isOver = true;
  };
  const lookForMarks = (): boolean => (hasMarks ||= mayHaveMarks(joined(held)));

  /** Gives what has no marks, but for the end: a tag may not be whole yet. */
  const giveAllBut = (back: number): boolean => {
    if (lookForMarks()) {
      unclear(new UnclearPage(TOO_SLOW));
      return true;
    }
    const all = joined(held);
    const tag = all.lastIndexOf(0x3c);
    const heldBack = Math.min(back, Math.max(tag === -1 ? 0 : all.length - tag, 64), all.length);
    held = [all.subarray(all.length - heldBack)];
    return heldBack === all.length || response.write(all.subarray(0, all.length - heldBack));
  };
  /** Gives the rest of what goes on while it comes; whether all of it could be given. */
  const isGiven = (): boolean => {
    giveAllBut(0);
    return !isOver;
  };
  /** Whether the head could be written: it may hold what no response may have. */
  const isBegun = (fields: RawFields): boolean => {
    try {
      response.writeHead(status, fields);
    } catch (error) {
      unclear(new OriginProblem(502, error));
    }
    return !isOver;
  };
  const stream = (): boolean => {
    clearTimeout(timer);
    if (lookForMarks()) return true;
    clearTimeout(deadline);
    isStreaming = true;
    raw = [];
    return !isBegun(changed()) || giveAllBut(HELD_BACK);
  };
  const isAnswered = (): boolean => isOver || response.destroyed || response.headersSent;
  const timer = hasParts
    ? undefined
    : setTimeout(() => {
        // Whatever went wrong meanwhile may have been answered already.
        if (!isAnswered()) stream();
      }, LONGEST_WAIT);
  const deadline = setTimeout(() => {
    const seconds = patience / 1000;
    if (!isAnswered()) unclear(new OriginProblem(504, new Error(`${TOO_LATE} ${seconds} s.`)));
  }, patience);

  return {
    stop,
    keep: (bytes) => {
      if (!isStreaming && !isOver) raw.push(bytes);
    },
    take: (content, bytes) => {
      if (isOver) return true;
      held.push(content);
      if (isStreaming) return giveAllBut(HELD_BACK);
      if (bytes) raw.push(bytes);
      length += content.length;
      if (length > LONGEST_PAGE && lookForMarks()) unclear(new UnclearPage(TOO_LONG));
      else if (length > (hasParts ? LONGEST_PAGE : LONGEST_HELD) && !hasMarks) return stream();
      return true;
    },
    end: () => {
      if (isOver) return;
      stop();
      if (isStreaming) {
        if (!isGiven()) return;
        response.end();
      } else if (lookForMarks()) {
        void withoutMarks(joined(held), page).then((given) => {
          if (!response.destroyed && isBegun(changed())) response.end(given);
          finish();
        }, unclear);
        return;
      } else if (isBegun(untouched)) response.end(joined(raw));
      finish();
    },
  };
}

/** The page without what its visitor must not see. */
async function withoutMarks(content: Buffer, { kind, sees, read }: PassedPage): Promise<Buffer> {
  if (kind.is === 'unclear') throw new UnclearPage(kind.why);
  if (kind.is === 'other') return content;
  return withoutHidden(content, await read(content, kind), sees());
}

const joined = (pieces: readonly Buffer[]): Buffer =>
  pieces.length === 1 ? pieces[0]! : Buffer.concat(pieces);
