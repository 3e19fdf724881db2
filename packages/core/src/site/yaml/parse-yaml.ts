import {
  Composer,
  Document,
  Lexer,
  type LineCounter,
  Parser,
  visit,
  YAMLParseError,
  type CST,
  type DocumentOptions,
  type ParseOptions,
  type SchemaOptions,
} from 'yaml';

/** Deeper than any site file; the library reads by recursion, and the platform ends where its stack does. */
const DEEPEST = 200;

/** The characters with which a line begins an entry within another. */
const INDICATORS = /^[-?:](?=[ \t\r\n]|$)[ \t]*/;

/**
 * Parses YAML 1.2. A text that is nested too deeply is not read at all: the document has one error. An alias
 * within what it stands for is an error too: its value would have no end.
 */
export function parseYaml(
  text: string,
  options: ParseOptions & DocumentOptions & SchemaOptions = {},
): Document {
  const deepBlock = tooDeepBlockAt(text);
  if (deepBlock !== null) {
    // Whoever asks for the line of the error has the lines.
    options.lineCounter?.addNewLine(0);
    for (let end = text.indexOf('\n'); end !== -1; end = text.indexOf('\n', end + 1))
      options.lineCounter?.addNewLine(end + 1);
    return tooDeep(deepBlock);
  }
  const source = new Source(text, options.lineCounter);
  let document: Document | null = null;
  for (const next of new Composer(options).compose(source.tokens(), true, text.length)) {
    document ??= next;
    if (next === document) continue;
    const [start, end] = next.range;
    const message = 'The file contains more than one document';
    document.errors.push(new YAMLParseError([start, end], 'MULTIPLE_DOCS', message));
    break;
  }
  if (source.deepAt !== null || document === null) return tooDeep(source.deepAt ?? 0);
  if (text.includes('&') && text.includes('*')) refuseCircles(document);
  return document;
}

function tooDeep(at: number): Document {
  const document = new Document(null);
  document.errors.push(
    new YAMLParseError([at, at + 1], 'RESOURCE_EXHAUSTION', `it is nested deeper than ${DEEPEST}`),
  );
  return document;
}

/** The tokens of a text; they end where brackets are nested too deeply. */
class Source {
  deepAt: number | null = null;

  constructor(
    private readonly text: string,
    private readonly lines: LineCounter | undefined,
  ) {}

  *tokens(): Generator<CST.Token> {
    const parser = new Parser(this.lines?.addNewLine);
    this.lines?.addNewLine(0);
    let depth = 0;
    for (const lexeme of new Lexer().lex(this.text)) {
      if (lexeme === '[' || lexeme === '{') depth++;
      else if (lexeme === ']' || lexeme === '}') depth--;
      if (depth > DEEPEST) {
        this.deepAt = parser.offset;
        return;
      }
      yield* parser.next(lexeme);
    }
    yield* parser.end();
  }
}

function refuseCircles(document: Document): void {
  visit(document, {
    Alias: (_, alias, around) => {
      const meant = alias.resolve(document);
      if (meant === undefined || !around.includes(meant)) return;
      const [start = 0, end = start + 1] = alias.range ?? [];
      const message = `the alias *${alias.source} stands within what it stands for`;
      document.errors.push(new YAMLParseError([start, end], 'BAD_ALIAS', message));
    },
  });
}

/** Where a text is nested too deeply by indentation, or by several indicators on one line; null where it is not. */
function tooDeepBlockAt(text: string): number | null {
  const open: number[] = [];
  let start = 0;
  for (const line of text.split('\n')) {
    let rest = line.trimStart();
    if (rest !== '' && !rest.startsWith('#')) {
      const indentation = line.length - rest.length;
      while ((open.at(-1) ?? -1) >= indentation) open.pop();
      open.push(indentation);
      let depth = open.length;
      for (let found = INDICATORS.exec(rest); found; found = INDICATORS.exec(rest)) {
        depth++;
        rest = rest.slice(found[0].length);
        if (depth > DEEPEST) return start;
      }
      if (depth > DEEPEST) return start;
    }
    start += line.length + 1;
  }
  return null;
}
