import { valuesIn, walk, type Condition } from '../../model/condition.ts';
import { parseCondition, RESERVED_WORDS } from '../../condition/parse.ts';
import { ConditionProblem } from '../../condition/tokens.ts';
import type { Pattern } from '../../model/pattern.ts';
import { didYouMean } from '../../text/nearest.ts';
import { readInstant } from '../../time/instant.ts';
import type { ErrorList, YamlPath } from '../yaml/document.ts';
import type { SiteErrorCode } from '../../model/site-error.ts';

/** The names that conditions may use. */
export interface KnownNames {
  readonly role: readonly string[];
  readonly group: readonly string[];
  readonly product: readonly string[];
  readonly audience: readonly string[];
}

/** Reads the conditions of a site file, and the names that they use; each error goes to its place. */
export class ConditionReader {
  constructor(
    readonly list: ErrorList,
    protected readonly names: KnownNames,
    readonly timeZone: string,
  ) {}

  /** A condition; one that can't be read admits nobody. */
  condition(
    text: string,
    path: YamlPath,
    pattern: Pick<Pattern, 'names'> = { names: [] },
  ): Condition {
    let condition: Condition;
    try {
      condition = parseCondition(text);
    } catch (error) {
      if (!(error instanceof ConditionProblem)) throw error;
      this.list.within('condition', path, error.offset, error.message, error.remedy);
      return { is: 'nobody' };
    }
    walk(condition, (inner) => {
      if (inner.is === 'role' || inner.is === 'group' || inner.is === 'audience')
        this.known(inner.is, inner.name, text, path);
      if (inner.is === 'bought') this.known('product', inner.product, text, path);
    });
    for (const value of valuesIn(condition)) {
      if (value.is === 'path' && !pattern.names.includes(value.name)) {
        this.list.within(
          'unknown-piece',
          path,
          text.indexOf(`path.${value.name}`),
          `"path.${value.name}" is not a piece of the address here.`,
          pattern.names.length > 0
            ? didYouMean(value.name, pattern.names)
            : `Name it in the address, as in /section/:${value.name}.`,
        );
      }
      if (value.is === 'date' && readInstant(value.text, this.timeZone) === null) {
        this.list.within(
          'date',
          path,
          text.indexOf(value.text),
          `"${value.text}" is not a date.`,
          'Write it as 2027-03-01.',
        );
      }
    }
    return condition;
  }

  private known(kind: keyof KnownNames, name: string, text: string, path: YamlPath): void {
    if (this.names[kind].includes(name)) return;
    const code: SiteErrorCode = `unknown-${kind}`;
    const what = kind === 'audience' ? 'No audience' : `No ${kind}`;
    this.list.within(
      code,
      path,
      this.offsetOf(kind, name, text),
      `${what} is called "${name}".`,
      didYouMean(name, this.names[kind]),
    );
  }

  private offsetOf(kind: keyof KnownNames, name: string, text: string): number {
    const before = kind === 'product' ? 'bought' : kind;
    const pattern = kind === 'audience' ? `(?<![\\w.-])()` : `(${before}\\s+["']?)`;
    const escaped = name.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
    const match = new RegExp(`${pattern}${escaped}(?![\\w-])`, 'u').exec(text);
    return match ? match.index + match[1]!.length : 0;
  }

  /** A name that must be known. */
  name(kind: keyof KnownNames, name: string, path: YamlPath): void {
    if (this.names[kind].includes(name)) return;
    this.list.atValue(
      `unknown-${kind}`,
      path,
      `No ${kind} is called "${name}".`,
      didYouMean(name, this.names[kind]),
    );
  }

  /** The name of an audience must not be a word that conditions read otherwise. */
  freeWord(name: string, path: YamlPath): void {
    if (RESERVED_WORDS.has(name)) {
      this.list.atKey(
        'wrong-value',
        path,
        `"${name}" means something else in a condition.`,
        'Give the audience another name.',
      );
    } else if (!/^[\p{L}_\d][\p{L}\p{N}_-]*$/u.test(name)) {
      this.list.atKey(
        'wrong-value',
        path,
        `"${name}" can't be written in a condition.`,
        'Use letters, digits, "-" and "_".',
      );
    }
  }
}
