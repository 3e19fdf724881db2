import type { Suggestion } from '../model/suggestion.ts';
import { suggest } from '../text/nearest.ts';

/** “Did you mean `x`?” when something near is known, otherwise the list of what is. */
export function describeSuggestion({ meant, known, kind }: Suggestion): string {
  if (kind !== undefined) return `Write "${kind} ${meant}".`;
  if (meant !== null) return `Did you mean "${meant}"?`;
  if (known.length === 0) return 'None are defined yet.';
  return `Known: ${known.slice(0, 12).join(', ')}${known.length > 12 ? ', …' : ''}.`;
}

/** What a name that is not known may have meant, in English. */
export const didYouMean = (name: string, known: Iterable<string>): string =>
  describeSuggestion(suggest(name, known));
