import { canonicalPath } from './canonical-path.ts';
import { isNormalized } from './normalized.ts';
import { withSingleSlashes } from './segments.ts';
import type { Tidy } from '../model/tidy.ts';

/** What becomes the word separator, by the separator that is wanted. */
export const SEPARATORS = { '-': /_|\+|%20/g, _: /-|\+|%20/g };

/** Whether a plain path is in the form that rules are matched against without further work. */
export const isSimple = ({ endings, index, homes, words }: Tidy): boolean =>
  endings.length + index.length + homes.length === 0 && words === 'keep';

/**
 * The form of a canonical path that rules are matched against, the same for every spelling of one
 * address: doubled slashes joined, no final slash, lower case where case makes no difference, Unicode
 * folded, no ending, no index name, one word separator. Applying it twice changes nothing.
 */
export function normalizePath(path: string, tidy: Tidy): string {
  if (isSimple(tidy) && isNormalized(path)) return path;
  const joined = withSingleSlashes(path);
  const open = joined.length > 1 && joined.endsWith('/') ? joined.slice(0, -1) : joined;
  const lower = canonicalPath(open, { ignoreCase: tidy.case === 'lower', fold: true })!;
  if (isSimple(tidy)) return lower;
  const form = withoutTail(
    tidy.words === 'keep' ? lower : lower.replace(SEPARATORS[tidy.words], tidy.words),
    tidy,
  );
  return tidy.homes.includes(form) ? '/' : form;
}

/** Without the endings and index names at its end; one may come to light when another is gone. */
function withoutTail(path: string, tidy: Tidy): string {
  let form = path;
  for (;;) {
    const start = form.lastIndexOf('/') + 1;
    const last = form.slice(start);
    const ending = tidy.endings.find((one) => isEnding(one, last));
    if (ending !== undefined) form = form.slice(0, -ending.length);
    else if (tidy.index.includes(last)) form = form.slice(0, Math.max(start - 1, 1));
    else return form;
  }
}

/** Whether an ending can be dropped: what is left must be a name, and not one that is refused or means something else. */
const isEnding = (ending: string, last: string): boolean =>
  last.length > ending.length &&
  last.endsWith(ending) &&
  !/(?:\.|%20)$/.test(last.slice(0, -ending.length));

/** A form with the final slash that the site wants; a file has none. */
export function withFinalSlash(form: string, requestedPath: string, { finalSlash }: Tidy): string {
  if (form === '/' || finalSlash === 'drop') return form;
  const isWanted =
    finalSlash === 'add'
      ? !/\.[^/]*$/.test(form)
      : requestedPath.length > 1 && requestedPath.endsWith('/');
  return isWanted ? `${form}/` : form;
}
