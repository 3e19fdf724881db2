import { addressesIn } from '../src/index.ts';

const logged = (request: string, more = ''): string =>
  `192.0.2.7 - kim [26/Nov/2026:01:02:03 +0000] "${request}" 200 512${more}`;

describe('a list of addresses', () => {
  test('is one a line, or the first column of a table', () => {
    expect(addressesIn('/a\r\n\n  /b ,x\n"/c,d",y\n/e\tz\n')).toEqual(
      ['/a', '/b', '/c,d', '/e'].map((address) => ({ address, times: null })),
    );
  });

  test.each([
    ['Common Log Format', ''],
    ['Combined Log Format', ' "https://www.example/x" "Agent/1 (a \\"b\\")"'],
  ])('is an access log in %s, the most asked first', (_, more) => {
    const lines = [
      logged('GET /b?x=1 HTTP/1.1', more),
      logged('HEAD /a HTTP/1.1', more),
      logged('GET /a HTTP/2.0', more),
      logged('POST /form HTTP/1.1', more),
      logged('GET https://www.example/c HTTP/1.1', more),
      logged('\\x16\\x03\\x01', more),
      logged('GET * HTTP/1.1', more),
      '2001:db8::1 - - [26/Nov/2026:01:02:03 +0000] "-" 408 -',
      'not a line of it',
    ];
    expect(addressesIn(lines.join('\n'))).toEqual([
      { address: '/a', times: 2 },
      { address: '/b?x=1', times: 1 },
      { address: 'https://www.example/c', times: 1 },
    ]);
  });
});
