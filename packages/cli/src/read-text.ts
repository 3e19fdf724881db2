import { isUtf8 } from 'node:buffer';
import { readFileSync } from 'node:fs';
import { EXIT, Stop } from './exit.ts';

/** Reads a file, or ends the command and says why it can't be read. */
export function readText(file: string): string {
  let bytes: Buffer;
  try {
    bytes = readFileSync(file === '-' ? 0 : file);
  } catch (error) {
    throw new Stop(EXIT.wrongUse, `The file ${file} can't be read: ${(error as Error).message}.`);
  }
  return textOf(bytes, file);
}

/** Decodes UTF-8, or UTF-16 with a byte order mark. Other encodings end the command. */
export function textOf(bytes: Buffer, file: string): string {
  const [first, second] = bytes;
  const wide =
    first === 0xff && second === 0xfe
      ? 'utf-16le'
      : first === 0xfe && second === 0xff
        ? 'utf-16be'
        : null;
  if (wide !== null) return new TextDecoder(wide).decode(bytes);
  if (isUtf8(bytes)) return bytes.toString('utf8');
  const lines = bytes.toString('latin1').split('\n');
  const line = lines.findIndex((one) => !isUtf8(Buffer.from(one, 'latin1')));
  const column = (lines[line] ?? '').search(/[\x80-\xff]/) + 1;
  throw new Stop(
    EXIT.wrongUse,
    `${file}:${line + 1}:${column}: The file is not in UTF-8. Convert it, for example with iconv -f ISO-8859-1 -t UTF-8.`,
  );
}
