import { TextDecoder } from 'node:util';
import { Problem } from './problem.ts';

/**
 * Reads a text. Bytes that are not of its charset are refused: they would be kept as other characters.
 *
 * @throws Problem `wrong-request`, `wrong-media-type`
 */
export function readText({
  bytes,
  charset,
}: {
  readonly bytes: Uint8Array;
  readonly charset: string | null;
}): string {
  let decoder: TextDecoder;
  try {
    decoder = new TextDecoder(charset ?? 'utf-8', { fatal: true });
  } catch {
    throw new Problem('wrong-media-type', `The charset "${charset}" is not known. Send UTF-8.`);
  }
  try {
    return decoder.decode(bytes);
  } catch {
    const wrong =
      charset === null ? 'not in UTF-8, and declares no other charset' : `not in ${charset}`;
    throw new Problem('wrong-request', `The body is ${wrong}.`);
  }
}

/**
 * Reads JSON.
 *
 * @throws Problem `wrong-request`
 */
export function readJson(bytes: Uint8Array): unknown {
  const text = readText({ bytes, charset: null });
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch (error) {
    throw new Problem('wrong-request', `The body is not JSON: ${(error as Error).message}.`);
  }
  return plainJson(body);
}

/** Deeper than anything that the API takes. */
const DEEPEST = 100;

/** JSON that is not made to be misread: `__proto__` is a name to some, and changes what is read to others. */
export function plainJson(body: unknown): unknown {
  const waiting: [value: unknown, pointer: string, depth: number][] = [[body, '', 0]];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    const [value, pointer, depth] = next;
    if (typeof value !== 'object' || value === null) continue;
    const wrong = Object.hasOwn(value, '__proto__')
      ? '"__proto__" is not a name that can be used.'
      : depth > DEEPEST
        ? `The body is nested deeper than ${DEEPEST}.`
        : null;
    if (wrong !== null)
      throw new Problem('wrong-request', wrong, { errors: [{ pointer, message: wrong }] });
    for (const [key, inner] of Object.entries(value))
      waiting.push([
        inner,
        `${pointer}/${key.replace(/~/g, '~0').replace(/\//g, '~1')}`,
        depth + 1,
      ]);
  }
  return body;
}
