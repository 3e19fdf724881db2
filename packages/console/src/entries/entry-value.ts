/** An entry of a site file as a form edits it: its fields by their names. */
export type Entry = Readonly<Record<string, unknown>>;

/** An entry that is nothing but a value has it under an empty name. */
export function entryOf(value: unknown, section: string): Entry {
  if (typeof value === 'object' && value !== null && !Array.isArray(value)) return value as Entry;
  if (value === undefined || value === null) return {};
  return section === 'pages' ? { title: value } : { '': value };
}

/** The entry as the site file has it; what is empty is left out. */
export function valueOf(entry: Entry): unknown {
  if ('' in entry) return entry[''] ?? null;
  return Object.fromEntries(Object.entries(entry).filter(([, value]) => !isEmpty(value)));
}

const isEmpty = (value: unknown): boolean =>
  value === undefined ||
  value === null ||
  value === '' ||
  (Array.isArray(value) && value.length === 0);

export const asText = (value: unknown): string =>
  typeof value === 'string' ? value : typeof value === 'number' ? String(value) : '';

export const asList = (value: unknown): readonly string[] =>
  Array.isArray(value) ? value.map(asText) : typeof value === 'string' ? [value] : [];

/** One address is written as a text, several as a list. */
export const fromList = (list: readonly string[]): unknown =>
  list.length === 0 ? undefined : list.length === 1 ? list[0] : list;

export const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** Any value of a site file in a line of a table. */
export function inShort(value: unknown): string {
  if (value === undefined || value === null) return '';
  if (Array.isArray(value)) return value.map(inShort).join(', ');
  if (isRecord(value))
    return Object.entries(value)
      .map(([name, one]) => `${name} ${inShort(one)}`)
      .join(' ');
  return typeof value === 'string' ? value : JSON.stringify(value);
}
