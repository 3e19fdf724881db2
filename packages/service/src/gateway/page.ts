import { type decisions, wording } from '@kleidon/core';

/** What a page of our own says. */
export interface OwnPage {
  readonly title: string;
  readonly words: string;
  readonly links?: readonly { readonly address: string; readonly title: string }[];
  /** Buttons that send a form, each with at most one field that says yes. */
  readonly actions?: readonly {
    readonly address: string;
    readonly title: string;
    readonly field?: string;
  }[];
  /** Rows of texts; the first is the head. */
  readonly table?: readonly (readonly string[])[];
}

/** The page for an answer without one of the website's own. */
export function ownPage(status: number, content: decisions.Content | null): OwnPage {
  const usual = {
    ...(USUAL[status] ?? USUAL[500]!),
    ...(HAS_WAY_ON.has(status) ? { links: [HOME] } : {}),
  };
  switch (content?.is) {
    case 'words':
      return { ...usual, words: content.text };
    case 'offers':
      return {
        ...usual,
        words: content.choices.some(({ length }) => length > 1)
          ? `${wording.inWords(
              content.choices.map((set) => wording.inWords(set.map(({ title }) => title))),
              'or',
            )} would open this page:`
          : 'One of these would open this page:',
        links: [...new Map(content.choices.flat().map((one) => [one.product, one])).values()].map(
          ({ title, buyAt, isRenewal }) => ({
            address: buyAt,
            title: isRenewal ? `Renew ${title}` : title,
          }),
        ),
      };
    case 'wait':
      return {
        title: 'One moment',
        words: content.text ?? 'This page has moved.',
        links: [{ address: content.to, title: 'Go there now' }],
      };
    default:
      return usual;
  }
}

const HOME = { address: '/', title: 'To the home page' };
/** Whoever is refused or lost here may go on elsewhere on the site. */
const HAS_WAY_ON: ReadonlySet<number> = new Set([403, 404, 410]);

const USUAL: Readonly<Record<number, OwnPage>> = {
  200: { title: 'One moment', words: '' },
  400: {
    title: 'This is no address',
    words: 'The request is ambiguous: it could be read as another one.',
  },
  403: { title: 'Not for you', words: 'You may not see this page.' },
  404: { title: 'Nothing here', words: 'There is no page at this address.' },
  405: { title: 'Not this way', words: 'This can not be done with a page of this site.' },
  408: { title: 'Too slow', words: 'What you sent came too slowly. Please try again.' },
  410: { title: 'Gone', words: 'This page is not here any more.' },
  414: { title: 'Too long', words: 'This address is too long.' },
  421: { title: 'Another site', words: 'This host is not one of this site.' },
  500: { title: 'Something went wrong', words: 'Please try again in a while.' },
  502: { title: 'Not reachable', words: 'The website does not answer at the moment.' },
  503: { title: 'Not now', words: 'The site can not answer at the moment. Please try again soon.' },
  504: { title: 'Too slow', words: 'The website takes too long to answer.' },
};

/** The page as a problem document (RFC 9457); links to what would help are its member `links`. */
export const problemOf = (status: number, { title, words, links = [] }: OwnPage): string =>
  JSON.stringify({
    type: 'about:blank',
    title,
    status,
    detail: words,
    ...(links.length === 0 ? {} : { links }),
  });

/** The page as HTML that needs nothing from elsewhere. Every text is escaped. */
export function pageAsHtml({ title, words, links = [], actions = [], table }: OwnPage): string {
  const items = links.map(
    (link) => `<li><a href="${escaped(link.address)}">${escaped(link.title)}</a></li>`,
  );
  const forms = actions.map(
    ({ address, title: label, field }) =>
      `<form method="post" action="${escaped(address)}">${
        field === undefined ? '' : `<input type="hidden" name="${escaped(field)}" value="yes">`
      }<button>${escaped(label)}</button></form>`,
  );
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escaped(title)}</title>
<style>
:root { color-scheme: light dark }
body { font: 17px/1.5 system-ui, sans-serif; max-width: ${table ? 62 : 34}rem; margin: 18vh auto 0; padding: 0 1.5rem }
h1 { font-size: 1.5rem }
button { font: inherit; padding: .3em 1em; margin-bottom: .6em }
table { border-collapse: collapse; font-size: .9rem }
th, td { text-align: left; vertical-align: top; padding: .3em 1.2em .3em 0; border-bottom: 1px solid #8886; overflow-wrap: anywhere }
</style>
<h1>${escaped(title)}</h1>
<p>${escaped(words)}</p>${table ? `\n${tableAsHtml(table)}` : ''}${items.length === 0 ? '' : `\n<ul>${items.join('')}</ul>`}${forms.map((form) => `\n${form}`).join('')}
</html>
`;
}

function tableAsHtml([head = [], ...rows]: readonly (readonly string[])[]): string {
  const row = (cells: readonly string[], tag: string): string =>
    `<tr>${cells.map((cell) => `<${tag}>${escaped(cell)}</${tag}>`).join('')}</tr>`;
  return `<table><thead>${row(head, 'th')}</thead><tbody>${rows.map((one) => row(one, 'td')).join('')}</tbody></table>`;
}

const ENTITIES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};

const escaped = (text: string): string => text.replace(/[&<>"']/g, (one) => ENTITIES[one]!);
