import { isRecord, type Entry } from './entry-value.ts';

/** Attributes, one a line. */
export function linesOf(value: unknown): string {
  if (!isRecord(value)) return '';
  return Object.entries(value)
    .map(([name, one]) => `${name}: ${Array.isArray(one) ? one.join(', ') : String(one)}`)
    .join('\n');
}

/** Each line is a name and a value; several with commas between are a list. */
export function attributesFrom(text: string): Entry | undefined {
  const lines = text.split('\n').flatMap((line): [string, unknown][] => {
    const [name = '', ...rest] = line.split(':');
    const value = rest.join(':').trim();
    return name.trim() === '' || value === '' ? [] : [[name.trim(), attributeFrom(value)]];
  });
  return lines.length === 0 ? undefined : Object.fromEntries(lines);
}

function attributeFrom(text: string): unknown {
  if (text.includes(',')) return text.split(',').map((one) => one.trim());
  return /^-?\d+(\.\d+)?$/.test(text) ? Number(text) : text;
}
