import { encodePathText } from '../address/canonical-path.ts';
import type { Groups } from './fill.ts';
import type { QueryConstraint } from '../model/query-constraint.ts';

/** Reads the query of a pattern: `person=:name&tab=log&all=*`. Null where a field stands without a value. */
export function parseQuery(text: string): QueryConstraint[] | null {
  const pieces = text.split('&').map((pair): QueryConstraint | null => {
    const [field = '', value] = pair.split(/=(.*)/s);
    if (field === '' || value === undefined) return null;
    const name = /^:([\p{ID_Start}$_][\p{ID_Continue}$_]*)$/u.exec(value)?.[1];
    if (name !== undefined) return { field: plain(field), value: null, piece: name };
    return { field: plain(field), value: value === '*' ? null : plain(value), piece: null };
  });
  return pieces.includes(null) ? null : (pieces as QueryConstraint[]);
}

const plain = (text: string): string => new URLSearchParams(`x=${text}`).get('x')!;

/** A value that could be taken for more than one step of a path is for no piece of one. */
const ONE_STEP = /^[^/\\\u0000-\u001f\u007f]+$/;

/**
 * Matches a query as forms write it (URL Standard, application/x-www-form-urlencoded).
 * @returns what the named pieces took, as it stands in a path; null where the query does not match
 */
export function matchQuery(pieces: readonly QueryConstraint[], query: string): Groups | null {
  const fields = new URLSearchParams(query);
  const groups: Record<string, string> = {};
  for (const { field, value, piece } of pieces) {
    const given = fields.get(field);
    if (given === null || (value !== null && given !== value)) return null;
    if (piece === null) continue;
    if (!ONE_STEP.test(given) || given === '.' || given === '..') return null;
    groups[piece] = encodePathText(given);
  }
  return groups;
}

/** A query without some fields; the others stay as they were written. */
export function withoutFields(fields: Iterable<string>, query: string): string {
  const dropped = new Set(fields);
  return query
    .split('&')
    .filter((pair) => pair !== '' && !dropped.has(plain(pair.split('=', 1)[0]!)))
    .join('&');
}
