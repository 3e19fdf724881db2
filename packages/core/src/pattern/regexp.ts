import { RE2JS } from 're2js';
import type { Part, Pattern } from '../model/pattern.ts';

type Parts = Pick<Pattern, 'parts' | 'ignoreCase'>;

// Most patterns are looked up without a regular expression, so that it is made when first asked for.
const compiled = new WeakMap<Parts, RE2JS>();

/** The regular expression of a pattern, which runs in time linear in the address. */
export function regexpOf(pattern: Parts): RE2JS {
  let regexp = compiled.get(pattern);
  if (!regexp) {
    regexp = RE2JS.compile(
      regexpSource(pattern.parts),
      pattern.ignoreCase ? RE2JS.CASE_INSENSITIVE : 0,
    );
    compiled.set(pattern, regexp);
  }
  return regexp;
}

/**
 * “Generate a regular expression and name list” of the URL Pattern Standard.
 *
 * @param quote how plain text is written in the syntax that is wanted
 */
export function regexpSource(
  parts: readonly Part[],
  quote: (text: string) => string = RE2JS.quote,
): string {
  const source = parts.map((part) => {
    if (part.is === 'text') {
      return part.modifier === '' ? quote(part.value) : `(?:${quote(part.value)})${part.modifier}`;
    }
    const inner = part.is === 'segment' ? '[^/]+?' : part.is === 'wildcard' ? '.*' : part.source;
    const isRepeated = part.modifier === '*' || part.modifier === '+';
    if (part.prefix === '' && part.suffix === '') {
      return isRepeated ? `((?:${inner})${part.modifier})` : `(${inner})${part.modifier}`;
    }
    const [prefix, suffix] = [quote(part.prefix), quote(part.suffix)];
    if (!isRepeated) return `(?:${prefix}(${inner})${suffix})${part.modifier}`;
    const again = `(?:${prefix}((?:${inner})(?:${suffix}${prefix}(?:${inner}))*)${suffix})`;
    return part.modifier === '*' ? `${again}?` : again;
  });
  return `^${source.join('')}$`;
}
