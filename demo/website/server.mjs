/**
 * The website of Merrow Point: an ordinary small site that knows nothing of access. Its pages carry
 * menus, links, blocks and files, marked so that a gateway can tell them.
 *
 *   node demo/website/server.mjs --port 4793 --shop http://127.0.0.1:4794
 */
import { parseArgs } from 'node:util';
import express from 'express';
import { activityOf, FAMILIES, FILES, PAGES } from './pages.mjs';

const { values: options } = parseArgs({
  options: {
    port: { type: 'string', default: '4793' },
    /** Where the shop is; without one, nothing can be bought. */
    shop: { type: 'string' },
  },
});

const escaped = (text) => String(text).replace(/[&<>"']/g, (one) => `&#${one.charCodeAt(0)};`);

const MENU = [
  ['/', 'Home'],
  ['/visit', 'Visit'],
  ['/sightings', 'Sightings'],
  ['/journal', 'Journal'],
  ['/shop', 'Shop'],
  ['/members', 'Members'],
  ['/crew', 'Crew'],
  ['/trustees', 'Trustees'],
  ['/join', 'Join'],
  ['/about', 'About'],
];
const CREW_MENU = [
  ['/crew/rota', 'Rota'],
  ['/crew/rota/swaps', 'Swaps'],
  ['/crew/handbook.pdf', 'Handbook'],
  ['/crew/ringing-log', 'Ringing log'],
];
const FOOT = [
  ['/terms', 'Terms'],
  ['/privacy', 'Privacy'],
  ['/tides', 'Tide tables'],
];

const menu = (name, label, links) => `<nav aria-label="${label}" data-kleidon-menu="${name}"><ul>
${links.map(([address, title]) => `  <li><a href="${address}">${title}</a></li>`).join('\n')}
</ul></nav>`;

const pageOf = (path, [title, body]) => `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${title} – Merrow Point</title>
<style>
body { font: 17px/1.55 Georgia, serif; color: #1c2b2a; background: #f6f4ee; max-width: 46rem; margin: 0 auto; padding: 1rem 1.5rem 3rem }
nav ul { list-style: none; padding: 0; display: flex; flex-wrap: wrap; gap: .2rem 1rem; margin: .4rem 0 }
a { color: #0b5563 }
header { border-bottom: 2px solid #0b5563; margin-bottom: 1.5rem }
.who { float: right; margin: 0 }
section { border-left: 4px solid #b7793a; padding: .1rem 1rem; margin: 1rem 0; background: #fffdf6 }
footer { border-top: 1px solid #1c2b2a44; margin-top: 3rem; font-size: .9rem }
</style>
</head>
<body>
<header>
<p class="who" data-kleidon-part="way-in"><a href="/sign-in">Sign in</a></p>
<p class="who" data-kleidon-part="way-out"><a href="/.kleidon/sign-out">Sign out</a></p>
<p><strong>Merrow Point</strong></p>
${menu('main', 'Main', MENU)}
${path.startsWith('/crew') ? menu('crew', 'Crew', CREW_MENU) : ''}
</header>
<main>
<h1>${title}</h1>
${body}
</main>
<footer>${menu('foot', 'Foot', FOOT)}</footer>
</body>
</html>
`;

/** Where visitors reach the website: what stands before it says so (RFC 7239). */
function homeOf({ headers }) {
  const { host, proto } = Object.fromEntries(
    [...String(headers.forwarded ?? '').matchAll(/\b(host|proto)="?([^";,]+)"?/g)].map(
      ([, name, value]) => [name, value],
    ),
  );
  return `${proto ?? 'http'}://${host ?? headers.host}`;
}

/** A page with links to the shop, which takes whoever has bought back to the page that was wanted. */
function withShop(path, [title, body], request) {
  if (options.shop === undefined) return [title, body];
  const member = `<p><a href="${escaped(options.shop)}/">Become a member</a></p>`;
  if (path === '/') return [title, body + member];
  const [, product] = /^\/shop\/([a-z-]+)$/.exec(path) ?? [];
  if (product === undefined) return [title, body];
  const { return: wanted } = request.query;
  const back = typeof wanted === 'string' ? new URL(wanted, homeOf(request)).href : '';
  const link = `${options.shop}/buy/${product}?return=${encodeURIComponent(back)}`;
  return [title, body.replace('/checkout', () => escaped(link))];
}

/** The page at an address; null where the site has none. */
function contentAt(path, query) {
  if (path === '/activity') return activityOf(escaped(query.person ?? 'somebody'));
  if (path === '/sign-in') return signIn(query.return);
  for (const [pattern, of] of FAMILIES) {
    const found = pattern.exec(path);
    if (found) return of(escaped(found[1])) ?? null;
  }
  return PAGES[path] ?? null;
}

const signIn = (back) => [
  'Sign in',
  `<p>Members and crew sign in with the observatory's account.</p>
<form action="/.kleidon/sign-in">${
    back === undefined ? '' : `<input type="hidden" name="return" value="${escaped(back)}">`
  }<button>Sign in</button></form>`,
];

/** A page of paper with one line on it. */
const PDF = `%PDF-1.4
1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj
2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj
3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 200]/Contents 4 0 R/Resources<</Font<</F<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>>>>>>>endobj
4 0 obj<</Length 48>>stream
BT /F 18 Tf 40 110 Td (Merrow Point) Tj ET     
endstream endobj
trailer<</Root 1 0 R>>
`;

const app = express();
app.disable('x-powered-by');
app.use(express.urlencoded({ extended: false }));
app.get(FILES, (_request, response) => void response.type('application/pdf').send(PDF));
app.post('/crew/rota', (request, response) =>
  response.send(
    pageOf('/crew/rota', ['Written down', `<p>Sunday: ${escaped(request.body?.sunday)}.</p>`]),
  ),
);
app.get(/.*/, (request, response) => {
  const content = contentAt(request.path, request.query);
  if (content) response.send(pageOf(request.path, withShop(request.path, content, request)));
  else
    response.status(404).send(pageOf(request.path, ['Not here', '<p>There is no such page.</p>']));
});

const server = app.listen(Number(options.port), '127.0.0.1', () =>
  console.log(`The website is at http://127.0.0.1:${server.address().port}`),
);
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => process.exit(0));
