import { decisions, queries, siteFiles } from '../src/index.ts';
import { GUEST, NOW } from './support.ts';

const SITE = `kleidon: 1
site: { name: Hosts, address: 'https://höhe.example:8443', also: [https://www.höhe.example] }
pages: { /: Home, /a: A }
redirects: [{ from: 'https://alt.example:81/*', to: '/*' }]
redirect-lists: [old.csv]
`;
const LIST = `from,to
https://bücher.example:8080/:x,/:x
http://alt.example/b;c,/a
`;

describe('hosts with ports and in other letters', () => {
  let site: decisions.PreparedSite;
  beforeAll(() => {
    const read = siteFiles.readSite(SITE, 'x', (name) =>
      name === 'old.csv' ? LIST.replace(/^.*;c.*\n/m, '') : null,
    );
    if (!read.ok) throw new Error(JSON.stringify(read.errors));
    site = decisions.prepareSite(read.site);
  });
  const end = (address: string): unknown => {
    const { outcome, location } = decisions.decide(site, { method: 'GET', address }, GUEST, NOW);
    return [outcome, location];
  };

  test.each([
    ['/a', ['reach', null]],
    ['https://xn--hhe-sna.example:8443/a', ['reach', null]],
    ['https://HÖHE.example:8443/a', ['reach', null]],
    ['https://höhe.example/a', ['invalid', null]],
    ['https://www.xn--hhe-sna.example/a', ['redirect', 'https://xn--hhe-sna.example:8443/a']],
    ['https://www.xn--hhe-sna.example:443/a', ['redirect', 'https://xn--hhe-sna.example:8443/a']],
    ['https://xn--bcher-kva.example:8080/a', ['redirect', 'https://xn--hhe-sna.example:8443/a']],
    ['https://bücher.example/a', ['invalid', null]],
    ['https://alt.example:81/a', ['redirect', 'https://xn--hhe-sna.example:8443/a']],
    ['https://alt.example/a', ['invalid', null]],
    ['https://xn--.example/a', ['invalid', null]],
    ['https://höhe.example:99999/a', ['invalid', null]],
  ])('%s: %j', (address, expected) => {
    expect(end(address)).toEqual(expected);
  });

  test('a list says which line no request can match', () => {
    const read = siteFiles.readSite(SITE, 'x', () => LIST);
    expect(read.ok ? [] : queries.explainErrors(read.errors)).toMatchObject([
      {
        file: 'old.csv',
        line: 3,
        code: 'pattern',
        message: expect.stringContaining('ambiguous') as string,
      },
    ]);
  });
});
