/** Characters that stand for themselves in every path, whatever the letter case means on a site. */
const [PLAIN, DOT, SLASH] = [1, 2, 3];
const KINDS = new Uint8Array(128);
for (const character of 'abcdefghijklmnopqrstuvwxyz0123456789-_~')
  KINDS[character.charCodeAt(0)] = PLAIN;
KINDS['.'.charCodeAt(0)] = DOT;
KINDS['/'.charCodeAt(0)] = SLASH;

/**
 * Whether an address is in its one form already, as most of those asked for are: plain characters,
 * and no segment that is empty, or begins or ends with a dot.
 */
export function isNormalized(text: string): boolean {
  if (!text.startsWith('/')) return false;
  let before = SLASH;
  for (let i = 1; i < text.length; i++) {
    const code = text.charCodeAt(i);
    const kind = code < 128 ? KINDS[code]! : 0;
    if (kind !== PLAIN && (kind === 0 || before === SLASH || (kind === SLASH && before === DOT)))
      return false;
    before = kind;
  }
  return before === PLAIN || text.length === 1;
}
