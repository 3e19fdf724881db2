import {
  Document,
  Lexer,
  parseDocument,
  visit,
  YAMLParseError,
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
  const at = tooDeepAt(text);
  if (at === null) {
    const document = parseDocument(text, options);
    if (text.includes('&') && text.includes('*')) refuseCircles(document);
    return document;
  }
  // Whoever asks for the line of the error has the lines.
  options.lineCounter?.addNewLine(0);
  for (let end = text.indexOf('\n'); end !== -1; end = text.indexOf('\n', end + 1))
    options.lineCounter?.addNewLine(end + 1);
  const document = new Document(null);
  document.errors.push(
    new YAMLParseError([at, at + 1], 'RESOURCE_EXHAUSTION', `it is nested deeper than ${DEEPEST}`),
  );
  return document;
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

/** Where a text is nested too deeply; null where it is not. */
function tooDeepAt(text: string): number | null {
  const block = tooDeepBlockAt(text);
  if (block !== null || (text.match(/[[{]/g)?.length ?? 0) <= DEEPEST) return block;
  let depth = 0;
  let offset = 0;
  for (const token of new Lexer().lex(text)) {
    // The lexer marks where documents and scalars begin by characters of its own.
    if (token === '[' || token === '{') depth++;
    else if (token === ']' || token === '}') depth--;
    if (depth > DEEPEST) return offset;
    if (!/^[\x02\x18\x1f\u{FEFF}]$/u.test(token)) offset += token.length;
  }
  return null;
}

/** The same for what is nested by indentation, and by several indicators on one line. */
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
