/** Decimal numbers as conditions read them. */
export const NUMBERS = '-?\\d+(?:\\.\\d+)?';

/**
 * The source of a regular expression for the decimal numbers from a whole number on.
 *
 * @param least a whole number, not negative
 * @param isMore without that number itself
 */
export function numbersFrom(least: number, isMore: boolean): string {
  const digits = [...String(least)];
  const sameLength = digits.flatMap((digit, i) =>
    digit === '9'
      ? []
      : [`${digits.slice(0, i).join('')}[${Number(digit) + 1}-9]\\d{${digits.length - i - 1}}`],
  );
  const larger = `0*(?:${[`[1-9]\\d{${digits.length},}`, ...sameLength].join('|')})(?:\\.\\d+)?`;
  const equal = `0*${least}`;
  if (isMore) return `(?:${larger}|${equal}\\.\\d*[1-9]\\d*)`;
  return `(?:${larger}|${equal}(?:\\.\\d+)?${least === 0 ? '|-0+(?:\\.0+)?' : ''})`;
}
