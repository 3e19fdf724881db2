import { valuesIn, walk, type Condition } from '../../model/condition.ts';
import { parseCondition } from '../../condition/parse.ts';
import { RESERVED_WORDS } from '../../condition/vocabulary.ts';
import { ConditionSyntaxError } from '../../condition/condition-syntax-error.ts';
import type { Pattern } from '../../model/pattern.ts';
import { suggest } from '../../text/nearest.ts';
import { readInstant } from '../../time/instant.ts';
import type { ErrorList, YamlPath } from '../yaml/document.ts';
import type { SiteProblem } from '../../model/site-error.ts';

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
      if (!(error instanceof ConditionSyntaxError)) throw error;
      this.list.within(path, error.offset, { code: 'condition', problem: error.problem });
      return { is: 'nobody' };
    }
    walk(condition, (inner) => {
      if (inner.is === 'role' || inner.is === 'group' || inner.is === 'audience')
        this.known(inner.is, inner.name, text, path);
      if (inner.is === 'bought') this.known('product', inner.product, text, path);
    });
    for (const value of valuesIn(condition)) {
      if (value.is === 'path' && !pattern.names.includes(value.name)) {
        this.list.within(path, text.indexOf(`path.${value.name}`), {
          code: 'unknown-path-value',
          name: value.name,
          suggestion: pattern.names.length > 0 ? suggest(value.name, pattern.names) : null,
        });
      }
      if (value.is === 'date' && readInstant(value.text, this.timeZone) === null) {
        this.list.within(path, text.indexOf(value.text), {
          code: 'not-a-date',
          text: value.text,
          isInCondition: true,
        });
      }
    }
    return condition;
  }

  private known(kind: keyof KnownNames, name: string, text: string, path: YamlPath): void {
    if (this.names[kind].includes(name)) return;
    this.list.within(path, this.offsetOf(kind, name, text), this.unknown(kind, name));
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
    this.list.atValue(path, this.unknown(kind, name));
  }

  private unknown(kind: keyof KnownNames, name: string): SiteProblem {
    const suggestion = suggest(name, this.names[kind]);
    const other = (['role', 'group', 'product'] as const).find((one) =>
      this.names[one].includes(name),
    );
    return kind === 'audience' && other
      ? {
          code: 'unknown-audience',
          name,
          suggestion: { ...suggestion, meant: name, kind: other === 'product' ? 'bought' : other },
        }
      : { code: `unknown-${kind}`, name, suggestion };
  }

  /** The name of an audience must not be a word that conditions read otherwise. */
  freeWord(name: string, path: YamlPath): void {
    if (RESERVED_WORDS.has(name)) {
      this.list.atKey(path, { code: 'reserved-word', name });
    } else if (!/^[\p{L}_\d][\p{L}\p{N}_-]*$/u.test(name)) {
      this.list.atKey(path, { code: 'unwritable-name', name });
    }
  }
}
