import { decisions, queries, siteFiles } from '../src/index.ts';
import { NOW, siteOf } from './support.ts';

const HEAD = `kleidon: 1
site: { name: F, address: https://f.example, sign-in: /sign-in }
roles: { a: x, b: x, admin: x }
products: { permit: { title: Permit, buy-at: /shop }, gift: { title: Gift } }
audiences: { crew: role a or role b, inner: bought gift, outer: inner or role a }
`;
const WEBSITE = HEAD.replace('sign-in: /sign-in', 'sign-in: /sign-in, undeclared: website');
const S = 'pages: { /sign-in: Sign in, /shop: Shop';
// Few of these sites ask for all that they sell; that has a test of its own.
const inspected = (body: string, head = HEAD) =>
  queries
    .inspect(siteOf(body, head), 'f.yaml', NOW)
    .filter(({ code }) => code !== 'product-unused');
const gate = (fields: string): string => `gates: { g: { ${fields} } }`;

/** A site that has the finding, and a near twin that has not. */
const TWINS: [code: string, has: string, hasNot: string, head?: [string, string]][] = [
  [
    'sign-in-closed',
    `${S} }\ngates: { all: { under: /, admit: signed-in } }`,
    `${S} }\ngates: { all: { under: /, admit: signed-in }, in: { at: [/sign-in, /shop], admit: anyone } }\naccepted: [{ finding: open-beneath, note: Meant }]`,
  ],
  ['sign-in-closed', 'pages: { /shop: Shop }', `${S} }`],
  [
    'legal-page-closed',
    `${S}, /legal/privacy.html: P }\n${gate('under: /legal, admit: signed-in')}`,
    `${S}, /legal/privacy.html: P }\n${gate('under: /legal, admit: anyone')}`,
  ],
  ...['/register', '/', '/css/site.css'].map((page): [string, string, string] => [
    'newcomer-page-closed',
    `${S}, ${page}: { title: P } }\ngates: { all: { under: /, admit: signed-in }, in: { at: [/sign-in, /shop], admit: anyone } }\naccepted: [{ finding: open-beneath, note: Meant }]`,
    `${S}, ${page}: { title: P } }\ngates: { p: { at: ${page}, admit: signed-in } }`,
  ]),
  // What only some meet, and what nobody can.
  [
    'redirect-loop',
    `${S}, /x: X }\nredirects: [{ from: /x, to: /y, when: 'visitor.town = "Ayr"' }, { from: /y, to: /x }]`,
    `${S}, /x: X }\nredirects: [{ from: /old, to: /x, when: 'visitor.town = "Ayr"' }, { from: /y, to: /x }]`,
  ],
  [
    'redirect-loop',
    `${S} }\nredirects: [{ from: /x, to: /y, when: role a and bought permit }, { from: /y, to: /x, when: bought permit }]\naccepted: [{ finding: redirect-dead-end, note: n }]`,
    `${S} }\nredirects: [{ from: /x, to: /y, when: role a and bought permit }, { from: /y, to: /shop, when: bought permit }]\naccepted: [{ finding: redirect-chain, note: n }]`,
  ],
  [
    'redirect-dead-end',
    `${S} }\nredirects: [{ from: '/o/:x', to: '/x/:x' }]`,
    `${S}, '/x/:n(\\d+)': X }\nredirects: [{ from: '/o/:x', to: '/x/:x' }]`,
  ],
  // A page that is hidden, or closed to those who ask, is there.
  [
    'redirect-dead-end',
    `${S} }\nredirects: [{ from: /o, to: /x, when: role a }]`,
    `${S}, /x: X }\nredirects: [{ from: /o, to: /x }]\n${gate('at: /x, admit: role a, otherwise: [{ do: hide }]')}\naccepted: [{ finding: redirect-to-closed, note: n }]`,
  ],
  ...[
    'bought permit and not ever bought permit',
    'person sam and person kim',
    'visitor.level > 5 and visitor.level < 3',
  ].map((admit): [string, string, string] => [
    'nobody-reaches',
    `${S}, /x: X }\n${gate(`at: /x, admit: '${admit}'`)}`,
    `${S}, /x: X }\n${gate(`at: /x, admit: '${admit.split(' and ')[0]}'`)}`,
  ]),
  // Another address of an open page, and one that redirects there, are as good as the page.
  [
    'sends-to-closed',
    `${S}, /x: X }\nredirects: [{ from: /b, to: /none }]\n${gate('at: /x, admit: role a, otherwise: [{ do: send, to: /b }]')}\naccepted: [{ finding: redirect-dead-end, note: n }]`,
    `${S}, /x: { title: X }, /y: { title: Y, aliases: [/z] } }\nredirects: [{ from: /b, to: /y }]\n${gate('at: /x, admit: role a, otherwise: [{ who: guest, do: send, to: /z }, { do: send, to: /b }]')}`,
  ],
  [
    'landing-closed',
    `${S}, /x: { leads-to: /y }, /y: Y }\n${gate('at: /y, admit: role a')}\nlandings: [{ after: sign-in, go: /x }]`,
    `${S}, /x: { title: X, aliases: [/z] }, /y: Y }\n${gate('at: /y, admit: role a')}\nlandings: [{ after: sign-in, go: /z }]`,
  ],
  [
    'landing-closed',
    `${S} }\nlandings: [{ after: sign-in, who: role admin, go: /none }]`,
    `${S} }\nlandings: [{ after: sign-in, who: role admin, go: /shop }]`,
    ['role admin', 'role admin'],
  ],
  [
    'no-example',
    `${S}, '/n/:id': { missing-unless: path.id > 1000 } }`,
    `${S}, '/n/:id': { missing-unless: path.id > 1000, example: /n/2000 } }`,
  ],
  [
    'landing-closed',
    `${S}, /x: X }
${gate('at: /x, admit: role a')}
landings: [{ after: sign-in, who: role b, go: /x }]`,
    `${S}, /x: X }
${gate('at: /x, admit: role a')}
landings: [{ after: sign-in, who: role b, go: /x, rank: 0 }, { after: sign-in, who: role b, go: /shop }]`,
  ],
  [
    'landing-closed',
    `${S}, /x: X }\n${gate('at: /x, admit: signed-in')}\nlandings: [{ after: sign-out, go: /x }]`,
    `${S}, /x: X }\n${gate('at: /x, admit: signed-in')}\nlandings: [{ after: sign-in, go: /x }]`,
  ],
  [
    'landing-closed',
    `${S}, /x: X }\n${gate('at: /x, admit: role a')}\nlandings: [{ after: sign-in, who: crew, go: /x }]`,
    `${S}, /x: X }\n${gate('at: /x, admit: crew')}\nlandings: [{ after: sign-in, who: role a, go: /x }]`,
  ],
  [
    'landing-closed',
    `${S}, /x: X }\n${gate('at: /x, admit: not role a')}\nlandings: [{ after: sign-in, go: /x }]`,
    `${S}, /x: X }\n${gate('at: /x, admit: not role a')}\nlandings: [{ after: sign-in, go: /x }, { after: sign-in, who: role a, go: /shop }]`,
  ],
  [
    'landing-closed',
    `${S} }\nlandings: [{ after: sign-in, go: /gone }]`,
    `${S} }\nlandings: [{ after: sign-in, go: /shop }]`,
  ],
  [
    'redirect-loop',
    `${S} }\nredirects: [{ from: /a, to: /b }, { from: /b, to: /a }]`,
    `${S} }\nredirects: [{ from: /a, to: /b }, { from: /b, to: /shop }]\naccepted: [{ finding: redirect-chain, note: x }]`,
  ],
  [
    'redirect-loop',
    `${S} }\nredirects: [{ from: '/a/*', to: '/a/b/*' }]`,
    `${S}, '/b/*': B }\nredirects: [{ from: '/a/*', to: '/b/*' }]`,
  ],
  // What a gate leads to must be open to those whom it leads there, by whatever answer and in whatever form.
  [
    'sends-to-closed',
    `${S}, /x: X }\ngates: { x: { at: /x, admit: bought permit, otherwise: [{ do: offer }] }, s: { at: /shop, admit: role a, otherwise: [{ do: refuse }] } }`,
    `${S}, /x: X }\ngates: { x: { at: /x, admit: bought permit, otherwise: [{ do: offer }] }, s: { at: /shop, admit: anyone } }`,
  ],
  [
    'sends-to-closed',
    `${S}, /x: X }\n${gate('at: /x, admit: role a, otherwise: [{ do: send, to: "https://f.example/none" }]')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a, otherwise: [{ do: send, to: "https://f.example/shop" }]')}`,
  ],
  [
    'hidden-revealed',
    `${S}, /h/x: X }\ngates: { h: { under: /h, admit: role a, otherwise: [{ do: hide }] }, x: { at: /h/x, admit: role b, otherwise: [{ who: guest, do: sign-in }] } }\naccepted: [{ finding: open-beneath, note: n }]`,
    `${S}, /h/x: X }\ngates: { h: { under: /h, admit: role a, otherwise: [{ do: hide }] }, x: { at: /h/x, admit: role b } }\naccepted: [{ finding: open-beneath, note: n }]`,
  ],
  // A rule that is a pattern is looked at wherever other rules cut it.
  [
    'redirect-loop',
    `${S}, '/n/:x': N }\nredirects: [{ from: '/o/:x', to: '/n/:x' }, { from: /n/7, to: /o/7 }]\naccepted: [{ finding: redirect-chain, note: n }]`,
    `${S}, '/n/:x': N }\nredirects: [{ from: '/o/:x', to: '/n/:x' }, { from: /m/7, to: /o/7 }]\naccepted: [{ finding: redirect-chain, note: n }]`,
  ],
  [
    'redirect-shadowed',
    `${S} }\nredirects: [{ from: '/p/:x', to: /shop }, { from: '/p/:x([0-4])', to: /, rank: 1 }, { from: '/p/:x([3-9])', to: /, rank: 1 }, { from: '/p/:x(\\d)', to: /shop }]\naccepted: [{ finding: redirect-dead-end, note: n }]`,
    `${S} }\nredirects: [{ from: '/p/:x', to: /shop }, { from: '/p/:x([0-4])', to: /, rank: 1 }, { from: '/p/:x([6-9])', to: /, rank: 1 }, { from: '/p/:x(\\d)', to: /shop }]\naccepted: [{ finding: redirect-dead-end, note: n }]`,
  ],
  [
    'redirect-hides-page',
    `${S}, /x: { title: X, missing-unless: role a } }\nredirects: [{ from: /x, to: /shop, when: signed-in }]`,
    `${S}, /x: { title: X, missing-unless: role a } }\nredirects: [{ from: /x, to: /shop, when: not role a }]`,
  ],
  [
    'rewrite-hides-page',
    `${S}, /p/x: X }\nrewrites: [{ from: '/p/:x', serve: /shop, unless-page: yes }, { from: '/:y/x', serve: /shop }]`,
    `${S}, /p/x: X }\nrewrites: [{ from: '/p/:x', serve: /shop, unless-page: yes }, { from: '/:y/x', serve: /shop, until: 2026-01-01 }]\naccepted: [{ finding: date-passed, note: n }]`,
  ],
  [
    'rewrite-round-gate',
    `${S}, /v: V }\n${gate('at: /c/7, admit: role a')}\nrewrites: [{ from: '/c/:x', serve: '/v?c=:x' }]`,
    `${S}, /v: V }\ngates: { g: { at: /c/7, admit: role a }, v: { at: /v, admit: role a } }\nrewrites: [{ from: '/c/:x', serve: '/v?c=:x' }]`,
  ],
  [
    'buyer-kept-out',
    `${S}, '/c/:x': C }\ngates: { g: { at: /c/7, admit: bought permit, narrows: yes }, c: { under: /c, admit: role a } }`,
    `${S}, '/c/:x': C }\ngates: { g: { at: /c/7, admit: bought permit, narrows: yes }, c: { under: /c, admit: signed-in } }`,
  ],
  [
    'tie',
    `${S} }\nredirects: [{ from: '/a-:x', to: /shop }, { from: '/:x-b', to: / }]\naccepted: [{ finding: redirect-dead-end, note: n }]`,
    `${S} }\nredirects: [{ from: '/a-:x', to: /shop, when: guest }, { from: '/:x-b', to: /shop, when: signed-in }]`,
  ],
  [
    'menu-redirects',
    `${S}, /x: { title: X, aliases: [/y] } }\nmenus: { m: { links: [/y] } }`,
    `${S}, /x: { title: X, aliases: [/y] } }\nmenus: { m: { links: [/y], on: /none } }`,
  ],
  [
    'unlisted-linked',
    `${S}, /x: { title: X, listed: no, aliases: [/y] } }\nmenus: { m: { links: [/y] } }\naccepted: [{ finding: menu-redirects, note: n }]`,
    `${S}, /x: { title: X, listed: no, until: 2026-01-01 } }\nmenus: { m: { links: [/x] } }\naccepted: [{ finding: menu-leads-nowhere, note: n }, { finding: date-passed, note: n }]`,
  ],
  [
    'product-not-sold',
    `${S}, /x: X }\n${gate('at: /x, admit: bought gift')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: not bought gift')}`,
  ],
  [
    'redirect-chain',
    `${S} }\nredirects: [{ from: /a, to: /b }, { from: /b, to: /shop }]`,
    `${S} }\nredirects: [{ from: /a, to: /shop }, { from: /b, to: /shop }]`,
  ],
  [
    'redirect-chain',
    `${S} }\nredirects: [{ from: '/x/*', to: '/y/*' }, { from: '/y/*', to: /shop }]`,
    `${S}, '/y/*': Y }\nredirects: [{ from: '/x/*', to: '/y/*' }, { from: '/z/*', to: /shop }]`,
  ],
  [
    'redirect-shadowed',
    `${S} }\nredirects: [{ from: /x/a, to: /shop }, { from: '/x/*', to: /sign-in, rank: 1 }]`,
    `${S} }\nredirects: [{ from: /x/a, to: /shop }, { from: '/x/*', to: /sign-in }]`,
  ],
  [
    'redirect-shadowed',
    `${S} }\nredirects: [{ from: /x/a, to: /shop }, { from: '/x/*', to: /sign-in, rank: 1 }]`,
    `${S} }\nredirects: [{ from: /x/a, to: /shop }, { from: '/x/*', to: /sign-in, rank: 1, when: role a }]`,
  ],
  [
    'redirect-shadowed',
    `${S} }\nredirects: [{ from: '/x/y/*', to: /shop }, { from: '/x/*', to: /sign-in, rank: 1 }]`,
    `${S} }\nredirects: [{ from: '/x/y/*', to: /shop }, { from: '/x/:one', to: /sign-in, rank: 1 }]`,
  ],
  [
    'redirect-shadowed',
    `${S} }\nredirects: [{ from: '/x/:a', to: /shop }, { from: '/x/*', to: /sign-in, rank: 1 }]`,
    `${S} }\nredirects: [{ from: '/x/:a', to: /shop }, { from: '/x/b', to: /sign-in, rank: 1 }]`,
  ],
  [
    'rewrite-dead-end',
    `${S} }\nrewrites: [{ from: '/x/:a', serve: '/gone?a=:a' }]`,
    `${S} }\nrewrites: [{ from: '/x/:a', serve: '/shop?a=:a' }]`,
  ],
  [
    'rewrite-hides-page',
    `${S}, /x/y: Y }\nrewrites: [{ from: '/x/:a', serve: '/shop?a=:a' }]`,
    `${S}, /x/y: Y }\nrewrites: [{ from: '/x/:a', serve: '/shop?a=:a', unless-page: yes }]`,
  ],
  [
    'rewrite-round-gate',
    `${S} }\n${gate('under: /x, admit: role a')}\nrewrites: [{ from: '/x/:a', serve: '/shop?a=:a' }]`,
    `${S} }\n${gate('under: /x, admit: role a')}\nrewrites: [{ from: '/x/:a', serve: '/shop?a=:a', canonical: yes }]`,
  ],
  [
    'rewrite-round-gate',
    `${S}, /x/y: Y, /p: P }\n${gate('under: /x, admit: role a')}\nrewrites: [{ from: /x/y, serve: /p }]`,
    `${S}, /x/y: Y, /p: P }\n${gate('under: [/x, /p], admit: role a')}\nrewrites: [{ from: /x/y, serve: /p }]`,
  ],
  [
    'person-page-clash',
    `${S}, /people/rules: R }\n${gate("under: '/people/:who', admit: visitor.id = path.who or role a")}`,
    `${S}, /people/rules: R }\n${gate("under: '/people/:who', admit: role a or role b")}`,
  ],
  [
    'person-page-clash',
    `${S}, '/people/:name': P, /x: { aliases: /people/Kim } }\nvisitors: { kim: { roles: [a] } }`,
    `${S}, '/people/:name': P, /x: { aliases: /people/kimmy } }\nvisitors: { kim: { roles: [a] } }`,
  ],
  [
    'tie',
    `${S} }\nrewrites: [{ from: '/x/:a', serve: /shop }, { from: '/x/:b', serve: /sign-in }]`,
    `${S} }\nrewrites: [{ from: '/x/:a', serve: /shop }, { from: '/x/:b', serve: /sign-in, rank: 1 }]\naccepted: []`,
  ],
  [
    'date-passed',
    `${S} }\nrewrites: [{ from: /x, serve: /shop, until: 2026-01-01 }]`,
    `${S} }\nrewrites: [{ from: /x, serve: /shop, until: 2028-01-01 }]`,
  ],
  [
    'redirect-shadowed',
    `${S} }\nredirects: [{ from: /x, to: /shop }, { from: '/x?a=1', to: /sign-in, rank: -1 }]`,
    `${S} }\nredirects: [{ from: /x, to: /shop }, { from: '/x?a=1', to: /sign-in }]`,
  ],
  [
    'redirect-dead-end',
    `${S} }\nredirects: [{ from: /a, to: /gone }]`,
    `${S} }\nredirects: [{ from: /a, to: /shop }]`,
  ],
  [
    'redirect-hides-page',
    `${S}, /x: X }\nredirects: [{ from: /x, to: /shop }]\naccepted: [{ finding: nobody-reaches, note: x }]`,
    `${S}, /x: X }\nredirects: [{ from: /x, to: /shop, unless-page: yes }]`,
  ],
  [
    'redirect-to-closed',
    `${S}, '/c/:x': C }\nredirects: [{ from: '/o/:x', to: '/c/:x' }]\n${gate('under: /c, admit: role a, otherwise: [{ do: refuse }]')}`,
    `${S}, /d: { title: D, aliases: [/c/d] }, '/c/:x': C }\nredirects: [{ from: '/o/:x', to: '/c/:x' }]\n${gate('under: /c, admit: role a, otherwise: [{ who: guest, do: hide }, { do: refuse }]')}`,
  ],
  [
    'redirect-to-closed',
    `${S}, /x: X }\n${gate('at: /x, admit: role a')}\nredirects: [{ from: /old, to: /x, when: crew }]`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a')}\nredirects: [{ from: /old, to: /x, when: role a }]`,
  ],
  [
    'redirect-to-closed',
    `${S}, /x: X }\n${gate('at: /x, admit: signed-in, otherwise: [{ do: refuse }]')}\nredirects: [{ from: /old, to: /x }]`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a')}\nredirects: [{ from: /old, to: /x }]`,
  ],
  [
    'redirect-permanent-for-some',
    `${S} }\nredirects: [{ from: /a, to: /shop, kind: permanent, when: role a }]`,
    `${S} }\nredirects: [{ from: /a, to: /shop, kind: permanent, when: language = "en" }]`,
  ],
  [
    'menu-leads-nowhere',
    `${S}, /x: X }\n${gate('at: /x, admit: role a')}\nmenus: { m: { links: [/x, /shop] } }`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a')}\nmenus: { m: { links: [/x, /shop], shows: usable } }`,
  ],
  [
    'menu-leads-nowhere',
    `${S}, /x: X, /y: Y }\n${gate('at: [/x, /y], admit: role a')}\nmenus: { m: { links: /y, on: /shop } }`,
    `${S}, /x: X, /y: Y }\n${gate('at: [/x, /y], admit: role a')}\nmenus: { m: { links: /y, on: /x } }`,
  ],
  [
    'menu-leads-nowhere',
    `${S}, /x: X }\n${gate('at: /x, admit: signed-in, otherwise: [{ do: hide }]')}\nmenus: { m: { links: /x } }`,
    `${S}, /x: X }\n${gate('at: /x, admit: signed-in')}\nmenus: { m: { links: /x } }`,
  ],
  [
    'menu-leads-nowhere',
    `${S} }\nmenus: { m: { links: [/gone] } }`,
    `${S} }\nmenus: { m: { links: [/shop, 'https://else.example/'] } }`,
  ],
  [
    'menu-redirects',
    `${S} }\nredirects: [{ from: /old, to: /shop }]\nmenus: { m: { links: [/old] } }`,
    `${S} }\nredirects: [{ from: /old, to: /shop }]\nmenus: { m: { links: [/shop] } }`,
  ],
  [
    'menu-redirects',
    `${S}, /x: X }\nredirects: [{ from: /x, to: /shop, when: role b }]\nmenus: { m: { links: [/x], shows: usable } }`,
    `${S}, /x: X }\nredirects: [{ from: /x, to: /shop, when: role b, until: 2026-01-01 }]\naccepted: [{ finding: date-passed, note: Over }]\nmenus: { m: { links: [/x], shows: usable } }`,
  ],
  [
    'unlisted-linked',
    `${S}, /x: { title: X, listed: no } }\nmenus: { m: { links: [/x] } }`,
    `${S}, /x: { title: X, listed: no } }\nmenus: { m: { links: [/x], on: /x } }`,
  ],
  [
    'sends-to-closed',
    `${S}, /x: X, /join: J }\ngates: { g: { at: /x, admit: role a, otherwise: [{ do: send, to: /join }] }, j: { at: /join, admit: signed-in } }`,
    `${S}, /x: X, /join: J }\ngates: { g: { at: /x, admit: role a, otherwise: [{ who: guest, do: sign-in }, { do: send, to: /join }] }, j: { at: /join, admit: signed-in } }`,
  ],
  [
    'sends-to-closed',
    `${S}, /x: X }\n${gate('at: /x, admit: role a, otherwise: [{ do: send, to: /x }]')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a, otherwise: [{ do: send, to: /shop }]')}`,
  ],
  [
    'sends-to-closed',
    `${S}, /x: X }\n${gate('at: /x, admit: role a, otherwise: [{ do: send, to: /gone }]')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a, otherwise: [{ do: send, to: https://else.example/ }]')}`,
  ],
  [
    'shows-missing',
    `${S} }\nnot-found: [{ under: /, show: /lost }]`,
    `${S}, /lost: L }\nnot-found: [{ under: /, show: /lost }]`,
  ],
  ['shows-missing', 'pages: { /sign-in: S }', `${S} }`],
  [
    'open-beneath',
    `${S}, /s: S, /s/x: X }\ngates: { s: { under: /s, admit: role a }, x: { at: /s/x, admit: crew } }`,
    `${S}, /s: S, /s/x: X }\ngates: { s: { under: /s, admit: crew }, x: { at: /s/x, admit: role a } }`,
  ],
  [
    'open-beneath',
    `${S}, /s: S, /s/x: X }\ngates: { s: { under: /s, admit: role a }, x: { at: /s/x, admit: anyone } }`,
    `${S}, /s: S, /s/x: X }\ngates: { s: { under: /s, admit: role a }, x: { at: /s/x, admit: anyone, narrows: yes } }`,
  ],
  // At some of the addresses of a page that its example is not one of.
  [
    'open-beneath',
    `${S}, '/s/:x': X }\ngates: { s: { under: /s, admit: role a }, x: { at: /s/y, admit: anyone } }`,
    `${S}, '/s/:x': X }\ngates: { s: { under: /s, admit: role a }, x: { at: /s/y, admit: role a } }`,
  ],
  [
    'full-access-wide',
    `${S} }`,
    `${S} }`,
    ['signed-in and not role a', 'role admin or person kim'],
  ],
  [
    'change-without-view',
    `${S}, /x: X }\ngates: { v: { at: /x, admit: role a }, c: { at: /x, right: change, admit: crew } }`,
    `${S}, /x: X }\ngates: { v: { at: /x, admit: crew }, c: { at: /x, right: change, admit: role a } }`,
  ],
  [
    'nobody-reaches',
    `${S}, /x: X }\n${gate('at: /x, admit: role a and guest')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a or guest')}`,
  ],
  [
    'offers-nothing',
    `${S}, /x: X }\n${gate('at: /x, admit: bought gift, otherwise: [{ do: offer }]')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: bought permit, otherwise: [{ do: offer }]')}`,
  ],
  [
    'product-not-sold',
    `${S}, /x: X }\n${gate('at: /x, admit: bought gift or role a')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: bought permit or ever bought gift')}`,
  ],
  [
    'product-not-sold',
    `${S}, /x: X }\n${gate('at: /x, admit: outer')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: ever bought gift or role b')}`,
  ],
  [
    'buyer-kept-out',
    `${S}, /x: X, /x/y: Y }\ngates: { x: { under: /x, admit: role a }, y: { under: /x/y, admit: bought permit, narrows: yes } }`,
    `${S}, /x: X, /x/y: Y }\ngates: { x: { under: /x, admit: role a }, y: { under: /x/y, admit: bought permit } }\naccepted: [{ finding: open-beneath, note: Meant }]`,
  ],
  [
    'otherwise-unused',
    `${S}, /x: X }\n${gate('at: /x, admit: role a, otherwise: [{ who: anyone, do: hide }, { who: guest, do: sign-in }]')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a, otherwise: [{ who: guest, do: sign-in }, { who: anyone, do: hide }]')}`,
  ],
  [
    'gate-covers-nothing',
    `${S}, /crew: C }\n${gate('under: /crwe, admit: role a')}`,
    `${S}, /crew: C }\n${gate('under: /crew, admit: role a')}`,
  ],
  ['date-passed', `${S}, /x: { until: 2026-11-23 } }`, `${S}, /x: { until: 2026-11-24 } }`],
  [
    'date-passed',
    `${S}, /x: X }\n${gate('at: /x, admit: role a, until: 2026-01-01')}`,
    `${S}, /x: X }\n${gate('at: /x, admit: role a, until: 2027-01-01')}`,
  ],
  [
    'date-passed',
    `${S} }\nredirects: [{ from: /a, to: /shop, until: 2026-01-01 }]`,
    `${S} }\nredirects: [{ from: /a, to: /shop, since: 2027-01-01 }]`,
  ],
  [
    'tie',
    `${S}, /x/y: X }\ngates: { a: { under: /x/:y, admit: role a }, b: { under: /x/:z, admit: role a } }`,
    `${S}, /x/y: X }\ngates: { a: { under: /x/:y, admit: role a }, b: { under: /x/:z, admit: role a, rank: 1 } }`,
  ],
  [
    'tie',
    `${S} }\nredirects: [{ from: /a, to: /shop }, { from: /a, to: /shop }]`,
    `${S} }\nredirects: [{ from: /a, to: /shop }, { from: /a, to: /shop, when: guest }]`,
  ],
  [
    'unused-acceptance',
    `${S} }\naccepted: [{ finding: tie, note: x }]`,
    `${S} }\nredirects: [{ from: /a, to: /shop }, { from: /a, to: /shop }]\naccepted: [{ finding: tie, note: x }]`,
  ],
];

describe('findings', () => {
  test.each([
    ['scope', gate('at: /shpo, admit: role a')],
    ['redirect', 'redirects: [{ from: /o, to: /shpo }]'],
    ['menu', 'menus: { m: { links: [/shpo] } }'],
    ['not-found', 'not-found: [{ under: /, show: /shpo }]'],
    ['landing', 'landings: [{ after: sign-out, go: /shpo }]'],
    ['gate', gate('at: /shop, admit: role a, otherwise: [{ do: send, to: /shpo }]')],
  ])('a target that is not declared, where the website is asked: %s', (by, rule) => {
    const declared = rule.replace('shpo', 'shop');
    const codes = (body: string) => inspected(`${S} }\n${body}`, WEBSITE);
    const own = codes(rule).filter(({ code }) => code === 'target-undeclared');
    expect(own).toMatchObject([{ fix: null, values: { by, address: '/shpo', meant: '/shop' } }]);
    expect(codes(declared).map(({ code }) => code)).not.toContain('target-undeclared');
  });

  test('a sign-in page whose form guests may not send is closed, and its fix opens it', () => {
    const head = HEAD.replace('sign-in: /sign-in', 'sign-in: /sign-in, change: gated-only');
    const [found] = inspected(`${S} }`, head);
    expect(found).toMatchObject({ code: 'sign-in-closed', values: { method: 'POST' } });
    const opened = 'gates: { in: { at: /sign-in, right: change, admit: anyone } }';
    expect(inspected(`${S} }\n${opened}`, head)).toEqual([]);
    expect(found!.fix).toMatchObject([
      { op: 'add', value: { at: '/sign-in', admit: 'anyone', right: 'change' } },
    ]);
  });

  test('what follows from a closed sign-in page is one finding, and comes first', () => {
    const gates = (open: string) =>
      `${S}, /terms: T, /b: B }
landings: [{ after: sign-out, go: /b }]
menus: { m: { links: [/b] }, n: { links: [/none] } }
gates: { all: { under: /, admit: signed-in }${open} }`;
    const [first, ...others] = inspected(gates(''));
    expect(first).toMatchObject({ code: 'sign-in-closed', values: { consequences: 1 } });
    expect(first!.message).toContain('One other finding follows from this.');
    // These are there with an open sign-in page, too.
    const codes = inspected(gates(', in: { at: /sign-in, admit: anyone }')).map(({ code }) => code);
    expect(others.map(({ code }) => code)).toEqual(codes.filter((code) => code !== 'open-beneath'));
  });

  test.each(TWINS.map((twin) => [twin[0], twin] as const))(
    '%s: a site that has it, and its twin that has not (%#)',
    (code, twin) => {
      const [, has, hasNot, fullAccess] = twin;
      const heads = fullAccess?.map((one) =>
        HEAD.replace('sign-in: /sign-in', `sign-in: /sign-in, full-access: ${one}`),
      );
      const found = inspected(has, heads?.[0]);
      expect(found.map((one) => one.code)).toContain(code);
      expect(inspected(hasNot, heads?.[1])).toEqual([]);
      for (const { message, remedy, line, about, values } of found) {
        expect(JSON.parse(JSON.stringify(values))).toEqual(values);
        expect([message, remedy, about].every((text) => /\w/.test(text))).toBe(true);
        expect(line).toBeGreaterThan(1);
      }
    },
  );

  test.each(
    TWINS.map((twin) => [twin[0], twin[1]] as const).filter(
      ([code]) => code !== 'full-access-wide',
    ),
  )('%s: its fix, where it has one, fixes it (%#)', (code, has) => {
    const text = HEAD + has;
    const found = inspected(has).filter((one) => one.code === code && one.fix !== null);
    for (const { fix, about } of found) {
      const read = siteFiles.readSite(siteFiles.patchSite(text, fix!), 'f.yaml');
      expect(read.ok ? [] : read.errors).toEqual([]);
      const after = read.ok ? queries.inspect(decisions.prepareSite(read.site), 'f.yaml', NOW) : [];
      expect(after.filter((one) => one.code === code && one.about === about)).toEqual([]);
    }
  });

  test('a draft that was saved two weeks ago and is not live is told, unless that is accepted', () => {
    const at = (body: string, days: number) =>
      queries.draftWaited(siteOf(`${S} }${body}`, HEAD), 'f.yaml', 7, NOW - days * 86_400_000, NOW);
    expect(at('', 13)).toBeNull();
    expect(at('', 15)).toMatchObject({
      code: 'draft-waited',
      about: 'site draft',
      message: expect.stringContaining('Version 7 of the draft was saved 15 days ago') as unknown,
    });
    const accepted = `\naccepted: [{ finding: draft-waited, note: n }]`;
    expect(at(accepted, 15)).toBeNull();
    expect(inspected(`${S} }${accepted}`)).toEqual([]);
  });

  test('another spelling is no other address: what is said of a piece is said of the usual one', () => {
    const pages = "pages: { /in: In, '/:p': { title: P, example: /a } }\n";
    const gates = `gates: { v: { at: '/:p', admit: path.p = "a" }, c: { under: /a, right: change, admit: signed-in } }\n`;
    const codes = queries.inspect(siteOf(pages + gates), 'f.yaml', NOW).map(({ code }) => code);
    expect(codes).not.toContain('change-without-view');
  });

  test('a product that nothing asks for, nor what is in it', () => {
    const products = `products:
  map: { title: Map, buy-at: /shop }
  guide: { title: Guide, buy-at: /shop }
  both: { title: Both, buy-at: /shop, includes: [map, guide] }
  talk: { title: Talk, buy-at: /shop }
`;
    const unused = (body: string): string[] =>
      queries
        .inspect(
          siteOf(
            `${products}${S}, /x: X }\n${body}`,
            HEAD.replace(/(?:products|audiences):.*\n/g, ''),
          ),
          'f.yaml',
          NOW,
        )
        .filter(({ code }) => code === 'product-unused')
        .map(({ about }) => about);
    expect(unused(gate('at: /x, admit: bought map'))).toEqual(['product guide', 'product talk']);
    // Who asks for a bundle does not ask for what is in it.
    expect(unused(gate('at: /x, admit: bought both'))).toEqual([
      'product map',
      'product guide',
      'product talk',
    ]);
    expect(
      unused(
        'parts: { p: { admit: lapsed talk } }\nlandings: [{ after: sign-in, who: bought guide, go: /x }]',
      ),
    ).toEqual(['product map']);
  });

  test('one that is accepted stays quiet, and only that one', () => {
    const two = `${S} }\nnot-found: [{ under: /, show: /lost }, { under: /x, show: /lost-too }]`;
    expect(inspected(two).map(({ about }) => about)).toEqual(['not-found /', 'not-found /x']);
    expect(
      inspected(
        `${two}\naccepted: [{ finding: shows-missing, about: not-found /x, note: Soon }]`,
      ).map(({ about }) => about),
    ).toEqual(['not-found /']);
  });

  test('an example may be written in any spelling of the address', () => {
    const body = `${S}, "/My/:who": { example: /My/Vik/ } }\ngates: { own: { under: "/my/:who", admit: visitor.id = path.who } }`;
    expect(inspected(body)).toEqual([]);
  });

  test('whoever has full access is not counted among those turned away', () => {
    const head = HEAD.replace('sign-in: /sign-in', 'sign-in: /sign-in, full-access: role admin');
    const body = `${S}, /x: X }\n${gate('at: /x, admit: role a')}\nlandings: [{ after: sign-in, who: role a or role admin, go: /x }]`;
    expect(inspected(body).map(({ code }) => code)).toEqual(['landing-closed']);
    expect(inspected(body, head)).toEqual([]);
    const exempt = body.replace('admit: role a }', 'admit: role a, full-access: no }');
    expect(inspected(exempt, head).map(({ code }) => code)).toEqual(['landing-closed']);
  });

  test('whoever has full access for viewing only may change nothing past a gate', () => {
    const head = HEAD.replace(
      'sign-in: /sign-in',
      'sign-in: /sign-in, full-access: role admin, full-access-right: view',
    );
    const body = (v: string): string =>
      `${S}, /x: X }\ngates: { v: { at: /x, admit: role a${v} }, c: { at: /x, right: change, admit: role a or role admin } }`;
    expect(inspected(body(''), head)).toEqual([]);
    expect(inspected(body(', full-access: no'), head)[0]).toMatchObject({
      code: 'change-without-view',
      message: expect.stringContaining('lets anyone with the role admin') as string,
    });
  });
});
