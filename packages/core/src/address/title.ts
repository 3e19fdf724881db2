import { capitalize } from '../text/capitalize.ts';
import { decodePathText } from './canonical-path.ts';

/** A title for a page that has none, made from the last segment of its address. */
export function titleFromPath(path: string): string {
  const last = decodePathText(path).split('/').filter(Boolean).at(-1);
  if (last === undefined) return 'Home';
  const words = last
    .replace(/\.[a-z0-9]+$/i, '')
    .replace(/[-_]+/g, ' ')
    .trim();
  return capitalize(words || last);
}
