import { decisions } from '../src/index.ts';
import { GUEST, NOW, siteOf, someone } from './support.ts';

const BODY = `roles: { crew: x }
pages:
  /: Home
  /open: { title: Open, aliases: [/o] }
  /secret: { title: Secret, aliases: [/s, /old/secret] }
  /pay: { title: Pay, https: required }
  /people/:name: People
  /activity: Activity
gates:
  secret: { at: [/secret, /pay, '/people/:name'], admit: role crew, otherwise: [{ do: hide }] }
redirects: [{ from: '/*', to: '/archive/*', unless-page: yes, when: 'query.archive = "1"' }]
rewrites: [{ from: '/people/:name', serve: '/activity?person=:name', canonical: yes }]
not-found: [{ under: /, say: 'Nothing at {rest}.' }]
`;
const site = siteOf(BODY, 'kleidon: 1\nsite: { name: H, address: http://h.example }\n');
const crew = someone({ roles: ['crew'] });
const answer = (prepared: decisions.PreparedSite, address: string, who = GUEST, method = 'GET') => {
  const { outcome, status, location, headers } = decisions.decide(
    prepared,
    { method, address },
    who,
    NOW,
  );
  return { outcome, status, location, headers };
};

describe('what is hidden is answered as what is not there', () => {
  test.each([
    '/secret',
    '/s',
    '/old/secret',
    '/activity?person=kim',
    'http://h.example/pay',
    '/people/kim',
  ])('%s', (address) => {
    expect(answer(site, address)).toEqual(answer(site, '/nothing'));
    expect(answer(site, address, GUEST, 'POST')).toEqual(answer(site, '/nothing', GUEST, 'POST'));
    expect(answer(site, address, crew).status).not.toBe(404);
  });

  test('an alias in another spelling is redirected to its own spelling', () => {
    expect(answer(site, '/S/')).toEqual({ ...answer(site, '/NOTHING/'), location: '/s' });
    expect(answer(site, '/S/', crew).location).toBe('/secret');
  });

  test('a redirect where no page is applies to a hidden one too', () => {
    expect(answer(site, '/secret?archive=1')).toMatchObject({
      status: 302,
      location: '/archive/secret',
    });
    expect(answer(site, '/open?archive=1').outcome).toBe('reach');
    expect(answer(site, '/secret?archive=1', crew).outcome).toBe('reach');
  });

  test('the redirect of an alias that only some get is never kept; that of an open page is', () => {
    expect(answer(site, '/s', crew)).toMatchObject({
      status: 302,
      location: '/secret',
      headers: { 'Cache-Control': 'private, no-store' },
    });
    expect(answer(site, '/o', crew)).toMatchObject({ status: 301, location: '/open' });
  });
});

test('a location is ASCII, whatever the site file has', () => {
  const here = siteOf(
    `pages: { /: Home, /sign-in-é: Sign in, /go: { title: Go, leads-to: 'https://bücher.example/ü?x=ß' } }
gates:
  a: { under: /a, admit: signed-in }
  b: { under: /b, admit: nobody, otherwise: [{ do: send, to: '/日本' }] }
redirects: [{ from: /w, to: '/ä b', wait: 5s }]
`,
    'kleidon: 1\nsite: { name: L, address: https://l.example, sign-in: /sign-in-é }\n',
  );
  expect(answer(here, '/a/ö').location).toBe('/sign-in-%C3%A9?return=%2Fa%2F%25C3%25B6');
  expect(answer(here, '/b').location).toBe('/%E6%97%A5%E6%9C%AC');
  expect(answer(here, '/go').location).toBe('https://xn--bcher-kva.example/%C3%BC?x=%C3%9F');
  expect(answer(here, '/w').headers['Refresh']).toBe('5; url=/%C3%A4%20b');
});
