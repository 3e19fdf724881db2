import { describeCsvProblem } from '../src/wording/csv-problem.ts';
import fc from 'fast-check';
import { formats } from '../src/index.ts';
import { CsvSyntaxError, readTable } from '../src/formats/csv.ts';

const COLUMNS = { address: ['url', 'path'], title: ['name'], 'leads-to': [] } as const;
const read = (text: string) => readTable(text, COLUMNS, 'address');

describe('a table in CSV', () => {
  test.each([
    ['commas', 'URL,Name\n/a,A'],
    ['semicolons', 'URL;Name\n/a;A'],
    ['tabs', 'URL\tName\n/a\tA'],
    ['CRLF and a byte order mark', '\uFEFFURL,Name\r\n/a,A\r\n'],
    ['quotes', '"URL","Name"\n"/a","A"'],
    ['another order', 'name,url\nA,/a'],
    ['spaces and capitals in the heads', ' U R L ,NAME\n /a , A '],
  ])('is read with %s', (_, text) => {
    expect(read(text)).toEqual({
      rows: [{ line: 2, values: { address: '/a', title: 'A' }, problem: null }],
      unread: [],
    });
  });

  test('tells the line of each row, also behind a cell of several lines and behind empty ones', () => {
    const { rows: all, unread } = read('path,leads to,x\n/a,"one\ntwo",1\n\n/b,,2\n,,\n/c');
    const rows = all.map(({ line, values }) => ({ line, values }));
    expect(rows).toEqual([
      { line: 2, values: { address: '/a', 'leads-to': 'one\ntwo' } },
      { line: 5, values: { address: '/b' } },
      { line: 7, values: { address: '/c' } },
    ]);
    expect(unread).toEqual(['x']);
  });

  test.each([
    ['', 1, 'empty'],
    ['title\nx', 1, 'No column is called address, url, path. The columns are: title.'],
    ['url,path\n/a,/b', 1, 'Two columns are both the address.'],
    ['url\n"a', 2, 'This is not CSV'],
    ['url\na"b"', 2, 'This is not CSV'],
  ])('%j is refused', (text, line, message) => {
    let problem: unknown;
    try {
      read(text);
    } catch (error) {
      problem = error;
    }
    expect(problem).toBeInstanceOf(CsvSyntaxError);
    expect(describeCsvProblem((problem as CsvSyntaxError).problem).message).toContain(message);
    expect((problem as CsvSyntaxError).line).toBeLessThanOrEqual(line);
  });

  test('whatever was written is read back', () => {
    const piece = fc.constantFrom(
      '=1+1',
      '+',
      '-',
      '@',
      "'",
      '"',
      ',',
      ';',
      '\t',
      '\n',
      '\r',
      '\r\n',
      ' ',
      '\u00a0',
      '\ufeff',
      '\uff1d',
    );
    const cell = fc
      .array(fc.oneof(piece, fc.string({ unit: 'grapheme', maxLength: 4 })), { maxLength: 6 })
      .map((pieces) => pieces.join(''));
    fc.assert(
      fc.property(
        fc.array(fc.record({ address: cell.filter((one) => one.trim() !== ''), title: cell }), {
          minLength: 1,
        }),
        (rows) => {
          const text = formats.writeTable(rows, ['title', 'address']);
          const { rows: back } = read(text);
          expect(back.map(({ values }) => ({ title: '', ...values }))).toEqual(rows);
        },
      ),
    );
  });

  test.each(['-30%', "'-30%", "''=1", "'tis", '@x'])('%s comes back as it was', (title) => {
    const { rows } = read(formats.writeTable([{ address: '/a', title }], ['address', 'title']));
    expect(rows[0]!.values).toEqual({ address: '/a', title });
  });

  test('a row with more text than columns is not cut off', () => {
    const { rows } = read('url,title\n/a,one, two\n/b,B,,\n');
    expect(rows.map(({ problem }) => problem && describeCsvProblem(problem).message)).toEqual([
      'It has 3 cells, and the first line names 2 columns.',
      null,
    ]);
  });

  test('a formula is written as text', () => {
    expect(formats.writeTable([{ a: '=1+1', b: true }], ['a', 'b'])).toBe("a,b\r\n'=1+1,yes\r\n");
  });
});

test('no line of a cell begins a formula, whatever breaks its lines', () => {
  const notes = ['a\n=1+1', 'a\r=1+1', 'a\r\n@x', '\n+1', '=1'];
  const text = formats.writeTable(
    notes.map((note) => ({ note })),
    ['note'],
  );
  expect(text.replaceAll(/^"/gm, '')).not.toMatch(/(?:^|[\r\n])[=+@-]/);
  expect(readTable(text, { note: [] }, 'note').rows.map(({ values }) => values.note)).toEqual(
    notes,
  );
});
