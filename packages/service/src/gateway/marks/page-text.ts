import { MARK, UnclearPage } from './marked-page.ts';

/** The text of a page, with the place of each character among its bytes. */
export interface PageText {
  readonly text: string;
  /** Turns places in the text into places among the bytes. */
  bytesAt(places: readonly number[]): number[];
  /** The text that a value stands for, such as the name of a part. */
  valueOf(value: string): string;
}

/** The name of a mark as it stands in the bytes, also where each character takes two of them. */
const ANY_MARK = new RegExp([...MARK].map((letter) => `${letter}\\0?`).join(''), 'i');
const ESCAPES = /\x1b../gs;

/** Whether bytes hold the name of a mark, in any encoding that browsers know. */
export function mayHaveMarks(bytes: Buffer): boolean {
  const text = bytes.toString('latin1');
  return ANY_MARK.test(text) || (bytes.includes(0x1b) && ANY_MARK.test(text.replace(ESCAPES, '')));
}

/**
 * Reads the bytes of a page with marks as text (Encoding Standard).
 * @param charset what the response says of it
 * @throws UnclearPage where browsers may read something else
 */
export function pageText(bytes: Buffer, charset: string | null): PageText {
  const mark = byteOrderMark(bytes);
  const named = mark?.encoding ?? encodingOf(charset);
  if (named === 'utf-16le' || named === 'utf-16be') return utf16(bytes, named, mark?.length ?? 0);
  if (named === 'iso-2022-jp' || named === 'replacement')
    throw new UnclearPage(`it is in ${named}, in which characters may hide tags`);
  // Browsers guess at encodings that nobody named; in these, the same bytes may be other characters.
  if (bytes.includes(0x1b)) throw new UnclearPage('it has escape sequences of ISO-2022-JP');
  if (bytes.includes(0)) throw new UnclearPage('it has NUL characters, as UTF-16 does');
  const start = mark?.length ?? 0;
  const content = bytes.subarray(start);
  return (
    (named === null || named === 'utf-8' ? utf8(content, start) : null) ??
    singleBytes(content, start, named ?? encodingOf(declaredIn(content)) ?? 'windows-1252')
  );
}

function byteOrderMark(bytes: Buffer): { encoding: string; length: number } | null {
  if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf)
    return { encoding: 'utf-8', length: 3 };
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return { encoding: 'utf-16le', length: 2 };
  return bytes[0] === 0xfe && bytes[1] === 0xff ? { encoding: 'utf-16be', length: 2 } : null;
}

/** The name of an encoding by one of its labels; null where there is none. */
function encodingOf(label: string | null): string | null {
  if (label === null) return null;
  if (REPLACED.has(label.trim().toLowerCase())) return 'replacement';
  try {
    return new TextDecoder(label.trim()).encoding;
  } catch {
    return null;
  }
}

/** Labels of encodings that browsers do not decode (Encoding Standard, “replacement”). */
const REPLACED: ReadonlySet<string> = new Set([
  ...['csiso2022kr', 'hz-gb-2312', 'iso-2022-cn', 'iso-2022-cn-ext', 'iso-2022-kr', 'replacement'],
]);

/** What a page says of its encoding itself. */
const declaredIn = (bytes: Buffer): string | null =>
  /<(?:meta|\?xml)[^>]*?(?:charset|encoding)\s*=\s*["']?\s*([\w:-]+)/i.exec(
    bytes.subarray(0, 1024).toString('latin1'),
  )?.[1] ?? null;

function utf16(bytes: Buffer, encoding: string, start: number): PageText {
  const text = new TextDecoder(encoding, { ignoreBOM: true }).decode(bytes.subarray(start));
  if (text.includes('\0')) throw new UnclearPage('it has NUL characters');
  return {
    text,
    bytesAt: (places) => places.map((place) => start + place * 2),
    valueOf: (value) => value,
  };
}

/** UTF-8; null for what is not. */
function utf8(bytes: Buffer, start: number): PageText | null {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    return null;
  }
  const isAscii = text.length === bytes.length;
  return {
    text,
    valueOf: (value) => value,
    bytesAt: (places) => {
      if (isAscii) return places.map((place) => start + place);
      const known = new Map<number, number>();
      let at = 0;
      let byte = start;
      for (const place of [...new Set(places)].sort((a, b) => a - b)) {
        byte += Buffer.byteLength(text.slice(at, place));
        at = place;
        known.set(place, byte);
      }
      return places.map((place) => known.get(place)!);
    },
  };
}

/**
 * Encodings in which every byte of a tag is that of ASCII: one character for each byte, whatever the others
 * stand for.
 */
function singleBytes(bytes: Buffer, start: number, encoding: string): PageText {
  return {
    text: bytes.toString('latin1'),
    bytesAt: (places) => places.map((place) => start + place),
    // What came from a character reference is no byte, and stays.
    valueOf: (value) =>
      /^[\0-\x7f]*$/.test(value) || /[^\0-\xff]/.test(value)
        ? value
        : new TextDecoder(encoding).decode(Buffer.from(value, 'latin1')),
  };
}
