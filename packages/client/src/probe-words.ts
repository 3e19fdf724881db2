import type { ProbeDifference } from './api.ts';

/** What a difference between a website and its rules means for the visitor. */
export const EFFECT_WORDS: Readonly<Record<ProbeDifference['effect'], string>> = {
  opens: 'sees what is not for them',
  closes: "doesn't see what is for them",
  other: 'something else',
};

/** What differs, of a page or of a visit. */
export function differenceInWords({ kind, effect }: ProbeDifference): string {
  switch (kind) {
    case 'visit':
      return EFFECT_WORDS[effect];
    case 'undeclared-page':
      return effect === 'opens'
        ? 'a page that the site file does not declare, open to everyone'
        : 'a page that the site file does not declare';
    case 'absent-page':
      return 'named in the site file, and the website has no such page';
  }
}

const UNITS: readonly (readonly [seconds: number, unit: string])[] = [
  [86_400, 'day'],
  [3600, 'hour'],
  [60, 'minute'],
];

/** How often something is done, such as `6 hours` or `day`, to be read after “every”. */
export function intervalInWords(seconds: number): string {
  const [size, unit] = UNITS.find(([one]) => seconds % one === 0) ?? [1, 'second'];
  return seconds === size ? unit : `${seconds / size} ${unit}s`;
}
