import { OWN } from './style.ts';

/** Prints a result: JSON where it was asked for, otherwise as people read it. */
export function print(json: boolean | undefined, value: unknown, asText: () => string): void {
  process.stdout.write(`${json ? jsonOf(value) : printable(asText())}\n`);
}

/** Control characters that a terminal may obey, but for line ends and tabs; the colours of this program are marked. */
const OBEYED = new RegExp(
  `\\u001b\\[(?:(\\d+);${OWN}|(39|22))m|[\\u001b\\u0000-\\u0008\\u000b-\\u001a\\u001c-\\u001f\\u007f-\\u009f\\u202a-\\u202e\\u2066-\\u2069]`,
  'g',
);

/** A text of which a terminal shows all: what a website calls its pages must not move the cursor. */
export const printable = (text: string): string =>
  text.replace(OBEYED, (_, colour?: string, closing?: string) => {
    if (colour !== undefined) return `\u001b[${colour}m`;
    // Tables close the colours of a cell once more.
    return closing === undefined ? '\ufffd' : '';
  });

/** JSON in which no character is one that a terminal obeys. */
export const jsonOf = (value: unknown): string =>
  JSON.stringify(value, null, 2).replace(
    /[\u007f-\u009f\u202a-\u202e\u2066-\u2069]/g,
    (one) => `\\u${one.charCodeAt(0).toString(16).padStart(4, '0')}`,
  );
