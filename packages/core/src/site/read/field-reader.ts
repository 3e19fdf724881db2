import { readAddress } from '../../address/address.ts';
import { withoutDotSegments } from '../../address/segments.ts';
import { normalizePath } from '../../address/tidy.ts';
import { parsePattern } from '../../pattern/parse.ts';
import { literalOf, type Pattern } from '../../model/pattern.ts';
import { normalizePattern } from '../../pattern/normalize.ts';
import { regexpOf } from '../../pattern/regexp.ts';
import { parseQuery } from '../../pattern/query.ts';
import { groupsWanted, parseTarget, misreadQuery, splitQuery } from '../../pattern/target.ts';
import { pieceName } from '../../pattern/invert-rewrite.ts';
import { suggest } from '../../text/nearest.ts';
import { readInstant } from '../../time/instant.ts';
import { ConditionReader, type KnownNames } from './condition-reader.ts';
import type { ErrorList, YamlPath } from '../yaml/document.ts';
import type { Period, Site } from '../../model/site.ts';
import type { Target } from '../../model/target.ts';
import type { QueryConstraint } from '../../model/query-constraint.ts';
import type { Tidy } from '../../model/tidy.ts';
import { patternShapeKey } from '../../pattern/shape.ts';
import { PatternSyntaxError } from '../../pattern/pattern-syntax-error.ts';
import type { SiteProblem } from '../../model/site-error.ts';

const NOTHING: readonly QueryConstraint[] = [];
/** An address up to its fragment; in groups, and after a backslash, `#` is a character as others. */
const BEFORE_FRAGMENT = /^((?:\\.|[^\\#({])*)#/s;

/** Reads the texts of a site file that mean more than themselves; each error goes to its place. */
export class FieldReader extends ConditionReader {
  constructor(
    list: ErrorList,
    names: KnownNames,
    timeZone: string,
    private readonly tidy: Tidy,
  ) {
    super(list, names, timeZone);
  }

  /** Reads the texts of another file of the same site. */
  forFile(list: ErrorList): FieldReader {
    return new FieldReader(list, this.names, this.timeZone, this.tidy);
  }

  /** The pathname pattern of a page, gate or not-found rule. */
  pagePattern(text: string, path: YamlPath): Pattern | null {
    if (!text.startsWith('/') && !text.startsWith('{/')) {
      this.patternError(path, 0, { code: 'pattern-without-slash', text });
      return null;
    }
    return this.pattern(text, path);
  }

  private pattern(text: string, path: YamlPath, offset = 0): Pattern | null {
    const [, without] = BEFORE_FRAGMENT.exec(text) ?? [];
    if (without !== undefined) {
      this.patternError(path, without.length + offset, { code: 'fragment', text, without });
      return null;
    }
    try {
      const options = { ignoreCase: this.tidy.case === 'lower', fold: true };
      return normalizePattern(parsePattern(text, options), this.tidy);
    } catch (error) {
      if (!(error instanceof PatternSyntaxError)) throw error;
      this.patternError(path, error.offset + offset, { code: 'pattern', problem: error.problem });
      return null;
    }
  }

  private patternError(path: YamlPath, offset: number, problem: SiteProblem): void {
    // The address of a page is a key, and everything else is a value.
    if (path[0] === 'pages' && path.length === 2) this.list.atKey(path, problem);
    else this.list.within(path, offset, problem);
  }

  /** What two page addresses have in common when they are the same address. */
  matchFormOf(pattern: Pattern): string {
    const literal = literalOf(pattern);
    return literal === null
      ? patternShapeKey(pattern)
      : normalizePath(withoutDotSegments(literal), this.tidy);
  }

  /**
   * What a redirect matches: a pathname pattern, behind protocol and host where it is for another
   * host, and before what the query must have.
   */
  source(
    text: string,
    path: YamlPath,
  ): {
    host: string | null;
    pattern: Pattern;
    queryConstraints: readonly QueryConstraint[];
  } | null {
    if (this.hasMisreadQuery(text, path)) return null;
    const [address, query] = splitQuery(text);
    const queryConstraints = query === null ? NOTHING : parseQuery(query);
    if (queryConstraints === null) {
      this.patternError(path, address.length + 1, { code: 'not-a-query', query: query! });
      return null;
    }
    const origin = /^https?:\/\/[^/?#]*/i.exec(address)?.[0];
    if (origin === undefined) {
      const pattern = this.pagePattern(address, path);
      return pattern ? { host: null, pattern, queryConstraints } : null;
    }
    const home = this.origin(origin, path);
    const pattern = this.pattern(address.slice(origin.length) || '/', path, origin.length);
    return home && pattern ? { host: home.host, pattern, queryConstraints } : null;
  }

  /** Whether a rule leads only to pieces that it matches; others are errors. */
  pieces(target: Target, known: readonly string[], path: YamlPath): boolean {
    const strangers = groupsWanted(target).filter((piece) => !known.includes(piece));
    for (const piece of strangers) {
      this.list.atValue(path, {
        code: 'unknown-piece',
        field: String(path.at(-1)),
        piece: pieceName(piece),
        suggestion: suggest(piece, known),
      });
    }
    return strangers.length === 0;
  }

  private hasMisreadQuery(text: string, path: YamlPath): boolean {
    const at = misreadQuery(text);
    if (at === null) return false;
    this.patternError(path, at, {
      code: 'misread-query',
      corrected: `${text.slice(0, at)}\\${text.slice(at)}`,
    });
    return true;
  }

  /** Where a redirect leads. */
  target(text: string, path: YamlPath): Target | null {
    if (this.hasMisreadQuery(text, path)) return null;
    try {
      return parseTarget(text);
    } catch (error) {
      if (!(error instanceof PatternSyntaxError)) throw error;
      this.list.within(path, error.offset, { code: 'pattern', problem: error.problem });
      return null;
    }
  }

  /** An absolute address without a path: protocol and host. */
  origin(text: string, path: YamlPath): Pick<Site, 'protocol' | 'host'> | null {
    const url = URL.canParse(text) ? new URL(text) : null;
    const isOrigin =
      url &&
      /^https?:$/.test(url.protocol) &&
      url.pathname === '/' &&
      !url.search &&
      !url.username &&
      !url.hash;
    if (isOrigin) return { protocol: url.protocol as Site['protocol'], host: url.host };
    this.list.within(path, 0, { code: 'not-a-host', text });
    return null;
  }

  /** A plain address, of this site or another. */
  address(text: string, path: YamlPath): void {
    const read = readAddress(text, { protocol: 'https:', host: 'site.invalid' }, this.tidy);
    if (!read.ok) this.list.atValue(path, { code: 'not-an-address', text });
  }

  /** A plain address of this site. */
  localAddress(text: string, path: YamlPath): void {
    if (text.startsWith('/')) this.address(text, path);
    else this.list.atValue(path, { code: 'not-a-page-address', text });
  }

  /** The example of a page must be an address of that page. */
  example(text: string, pattern: Pattern, path: YamlPath): void {
    const read = readAddress(text, { protocol: 'https:', host: 'site.invalid' }, this.tidy);
    if (read.ok && regexpOf(pattern).matches(read.address.path)) return;
    this.list.atValue(path, { code: 'not-of-this-page', text, pattern: pattern.text });
  }

  /** From when until when; a date is the beginning of that day in the site's time zone. */
  period(
    from: string | undefined,
    until: string | undefined,
    path: YamlPath,
    fromField = 'from',
  ): Period {
    const period = {
      validFrom: this.instant(from, [...path, fromField]),
      validUntil: this.instant(until, [...path, 'until']),
    };
    const { validFrom, validUntil } = period;
    if (validFrom !== null && validUntil !== null && validFrom >= validUntil) {
      this.list.atValue([...path, 'until'], { code: 'period-reversed', from: fromField });
    }
    return period;
  }

  /** A length of time, such as `60s`, `5m` or `1h`, in seconds. */
  seconds(text: string | undefined, path: YamlPath): number | null {
    if (text === undefined) return null;
    const match = /^([1-9]\d{0,6})\s*(s|m|h|d)$/.exec(text);
    if (match) return Number(match[1]) * { s: 1, m: 60, h: 3600, d: 86_400 }[match[2] as 's'];
    this.list.atValue(path, { code: 'not-a-duration', text });
    return null;
  }

  private instant(text: string | undefined, path: YamlPath): number | null {
    if (text === undefined) return null;
    const at = readInstant(text, this.timeZone);
    if (at === null) this.list.atValue(path, { code: 'not-a-date', text, isInCondition: false });
    return at;
  }

  /** Fields that mean something only beside one value of "do". */
  onlyWith(
    step: Readonly<Record<string, unknown>>,
    fields: Readonly<Record<string, string>>,
    path: YamlPath,
  ): void {
    for (const [field, wanted] of Object.entries(fields)) {
      if (step[field] === undefined || step['do'] === wanted) continue;
      this.list.atKey([...path, field], { code: 'only-with', field, wanted });
    }
  }

  /** A field that this entry can't do without. */
  needs(value: unknown, field: string, example: string, path: YamlPath): void {
    if (value !== undefined) return;
    this.list.atValue(path, { code: 'missing-field', field, example });
  }
}
