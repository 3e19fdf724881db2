import fc from 'fast-check';
import { chromium, type Browser, type Page } from 'playwright-core';
import { CHROMIUM } from '../../core/test/chromium.ts';
import {
  UnclearPage,
  withoutHidden,
  type MarkupVisibility,
} from '../src/gateway/marks/marked-page.ts';
import { pageText } from '../src/gateway/marks/page-text.ts';
import { readHtml } from '../src/gateway/marks/read-html.ts';

const SEES: MarkupVisibility = {
  part: (name) => name !== 'no',
  onlyUsable: () => false,
  link: () => true,
};

/** What came through; null where the page can't be read with certainty. */
function passed(page: string): string | null {
  try {
    const bytes = Buffer.from(page);
    return withoutHidden(bytes, readHtml(pageText(bytes, 'utf-8')), SEES).toString();
  } catch (error) {
    if (error instanceof UnclearPage) return null;
    throw error;
  }
}

/** Words of a page, such as W17, that a browser has inside hidden parts, and those that it has elsewhere. */
interface Judgement {
  readonly hidden: readonly string[];
  readonly shown: readonly string[];
}

/** Loads pages in a frame, with scripts on, and as documents without scripts; says what is in marked elements of either. */
async function judge(page: Page, pages: readonly string[]): Promise<Judgement[]> {
  return page.evaluate((all) => {
    const read = (root: Document): { hidden: Set<string>; shown: Set<string> } => {
      const hidden = new Set<string>();
      const shown = new Set<string>();
      const look = (node: Node, isHidden: boolean): void => {
        const isElement = node instanceof Element || node.nodeType === 1;
        const element = node as HTMLElement;
        const within =
          isHidden || (isElement && element.getAttribute('data-kleidon-part') === 'no');
        const texts = isElement
          ? [...element.attributes].map(({ value }) => value)
          : [node.nodeValue ?? ''];
        for (const text of texts)
          for (const word of text.match(/W\d+W/g) ?? []) (within ? hidden : shown).add(word);
        node.childNodes.forEach((one) => look(one, within));
        if (isElement && 'content' in element && element.tagName === 'TEMPLATE')
          look((element as HTMLTemplateElement).content, within);
        if (isElement && element.shadowRoot) look(element.shadowRoot, within);
      };
      look(root, false);
      return { hidden, shown };
    };
    const frame = document.createElement('iframe');
    document.body.append(frame);
    const results: Judgement[] = [];
    for (const html of all) {
      const document = frame.contentDocument!;
      document.open();
      // Parsed as a page that is loaded, at once.
      // eslint-disable-next-line @typescript-eslint/no-deprecated
      document.write(html);
      document.close();
      const scripted = read(document);
      const plain = read(new DOMParser().parseFromString(html, 'text/html'));
      // What is repeated elsewhere, as the attributes of <b> are in each paragraph, is shown there.
      const onlyIn = ({ hidden, shown }: typeof plain): string[] =>
        [...hidden].filter((word) => !shown.has(word));
      const hidden = [...new Set([...onlyIn(scripted), ...onlyIn(plain)])];
      const shown = [...scripted.shown].filter(
        (word) => plain.shown.has(word) && !scripted.hidden.has(word) && !plain.hidden.has(word),
      );
      results.push({ hidden, shown });
    }
    return results;
  }, pages);
}

const TAGS = [
  ...[
    'div',
    'p',
    'b',
    'a',
    'i',
    'span',
    'table',
    'tr',
    'td',
    'tbody',
    'caption',
    'colgroup',
    'ul',
    'li',
  ],
  ...[
    'dl',
    'dd',
    'h1',
    'form',
    'button',
    'select',
    'option',
    'optgroup',
    'template',
    'svg',
    'math',
    'mi',
  ],
  ...[
    'foreignObject',
    'desc',
    'title',
    'style',
    'script',
    'textarea',
    'iframe',
    'noscript',
    'object',
    'pre',
  ],
  ...[
    'br',
    'img',
    'input',
    'hr',
    'body',
    'html',
    'head',
    'nobr',
    'marquee',
    'ruby',
    'rt',
    'xmp',
    'frameset',
  ],
  ...[
    'annotation-xml',
    'mtext',
    'image',
    'plaintext',
    'dialog',
    'details',
    'summary',
    'center',
    'font',
  ],
];

/** Pages of random tags, in no order: half of them are what nobody would write on purpose. */
const soup = fc
  .array(
    fc.record({
      kind: fc.constantFrom(
        'text',
        'text',
        'open',
        'open',
        'close',
        'close',
        'marked',
        'comment',
        'odd',
      ),
      tag: fc.constantFrom(...TAGS, 'div', 'p', 'table', 'td', 'b', 'select', 'li'),
      odd: fc.constantFrom(
        ...[
          '<![CDATA[',
          ']]>',
          '<!--',
          '-->',
          '<?x',
          '</',
          '<',
          '&lt;',
          '</ x>',
          '<!doctype html>',
          '\n',
          ' ',
        ],
        ...['<br/>', '<p/>', '<style/>', '</p >', '</div foo=">">', '<b x="', '>', '"', "'"],
      ),
    }),
    { minLength: 4, maxLength: 40 },
  )
  .map((pieces) => {
    let count = 0;
    const word = (): string => `W${++count}W`;
    const body = pieces.map(({ kind, tag, odd }) => {
      switch (kind) {
        case 'text':
          return word();
        case 'open':
          return `<${tag} title="${word()}">`;
        case 'close':
          return `</${tag}>`;
        case 'marked':
          return `<${tag} data-kleidon-part="no" title="${word()}">`;
        case 'comment':
          return `<!-- ${word()} -->`;
        default:
          return odd;
      }
    });
    return `<!doctype html><title>t</title><body>${word()}${body.join('')}${word()}`;
  });

interface Tree {
  readonly tag: string;
  readonly mark: 'no' | 'yes' | null;
  readonly inside: readonly Tree[];
}

/** Pages as people write them: every element is closed, and stands where it may. */
const { tree } = fc.letrec<{ tree: Tree }>((tie) => ({
  tree: fc.record({
    tag: fc.constantFrom(
      'div',
      'section',
      'ul',
      'table',
      'p',
      'span',
      'em',
      'svg',
      'pre',
      'article',
    ),
    mark: fc.constantFrom('no', 'yes', null, null, null),
    inside: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      fc.constant<Tree[]>([]),
      fc.array(tie('tree'), { maxLength: 4 }),
    ),
  }),
}));
const written = fc.array(tree, { minLength: 1, maxLength: 6 }).map((trees) => {
  let count = 0;
  const word = (): string => `W${++count}W`;
  const print = ({ tag, mark, inside }: Tree, isInline: boolean): string => {
    const name = isInline ? 'span' : tag;
    const attributes = ` title="${word()}"${mark === null ? '' : ` data-kleidon-part=${mark}`}`;
    const children = inside.map((one) =>
      print(one, isInline || ['p', 'span', 'em', 'pre', 'svg'].includes(tag)),
    );
    const content = [word(), ...children.flatMap((one) => [one, word()])];
    if (name === 'svg') return `<svg${attributes}><text>${word()}</text><g/></svg>`;
    if (name === 'ul')
      return `<ul${attributes}>${content.map((one) => `<li>${one}</li>`).join('\n')}</ul>`;
    if (name === 'table')
      return `<table${attributes}><tr>${content.map((one) => `<td>${one}</td>`).join('')}</tr></table>`;
    return `<${name}${attributes}>${content.join('')}</${name}>`;
  };
  return `<!doctype html>\n<html lang="en"><head><title>é ${word()}</title></head>\n<body>${trees
    .map((one) => `${print(one, false)}<!-- ${word()} -->\n`)
    .join('')}</body></html>\n`;
});

describe('pages with parts, as a browser has them', () => {
  let browser: Browser;
  let page: Page;
  beforeAll(async () => {
    browser = await chromium.launch(CHROMIUM);
    page = await browser.newPage();
    await page.goto('about:blank');
  });
  afterAll(() => browser.close());

  const check = async (pages: readonly string[]): Promise<number> => {
    let unclear = 0;
    const judged = await judge(page, pages);
    pages.forEach((html, i) => {
      const through = passed(html);
      if (through === null) {
        unclear++;
        return;
      }
      const words = new Set(through.match(/W\d+W/g));
      const { hidden, shown } = judged[i]!;
      const leaked = hidden.filter((word) => words.has(word));
      const lost = shown.filter((word) => !words.has(word));
      expect({ html, through, leaked, lost }).toEqual({ html, through, leaked: [], lost: [] });
    });
    return unclear;
  };

  test('of 1,500 pages of random tags, none shows what it must not, none loses what it must keep', async () => {
    const pages = fc.sample(soup, Number(process.env['PAGES'] ?? 1500));
    expect(await check(pages)).toBeLessThan(pages.length * 0.35);
  }, 600_000);

  test('of 1,000 pages as people write them, every one is read', async () => {
    const pages = fc.sample(written, 1000);
    expect(await check(pages)).toBe(0);
  });
});
