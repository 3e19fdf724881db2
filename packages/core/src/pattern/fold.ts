import { foldedPath } from '../address/canonical-path.ts';
import type { Part, Pattern } from '../model/pattern.ts';

/**
 * Folds the fixed text of a pattern, so that it matches folded paths. Custom groups stay as they are.
 *
 * @returns the pattern itself where folding changes nothing
 */
export function foldPattern(pattern: Pattern, ignoreCase: boolean): Pattern {
  const fold = (text: string): string => foldedPath(text, ignoreCase);
  const parts = pattern.parts.map((part): Part => {
    if (part.is === 'text') {
      const value = fold(part.value);
      return value === part.value ? part : { ...part, value };
    }
    const [prefix, suffix] = [fold(part.prefix), fold(part.suffix)];
    return prefix === part.prefix && suffix === part.suffix ? part : { ...part, prefix, suffix };
  });
  return parts.every((part, i) => part === pattern.parts[i]) ? pattern : { ...pattern, parts };
}
