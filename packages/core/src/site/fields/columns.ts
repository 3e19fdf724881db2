import { sectionDeclaration } from './declarations.ts';

/**
 * The columns of CSV files with entries of a section, each with the other names by which it is known.
 *
 * @param first columns that are no fields
 */
export function columnsOf(
  section: 'pages' | 'visitors' | 'redirects',
  first: Columns = {},
): Columns {
  const { fields } = sectionDeclaration(section).entry;
  const columns = fields.flatMap(({ name, columns }) =>
    columns ? [[name, columns] as const] : [],
  );
  return { ...first, ...Object.fromEntries(columns) };
}

/** The names of columns, each with other names. */
export type Columns = Readonly<Record<string, readonly string[]>>;
