import { createServer, type IncomingMessage, type Server } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { createClient, OUTCOME_WORDS, ServiceProblem, tally, Unreachable } from '../src/index.ts';

/** What stands in for a service that answers wrongly, which the real one can't be made to do. */
async function answering(
  status: number,
  type: string,
  body: string,
): Promise<{ server: Server; address: string; asked: IncomingMessage[] }> {
  const asked: IncomingMessage[] = [];
  const server = createServer((request, response) => {
    asked.push(request);
    response.writeHead(status, { 'Content-Type': type }).end(body);
  }).listen(0, '127.0.0.1');
  await once(server, 'listening');
  return { server, address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, asked };
}

describe('the client', () => {
  test('turns a problem document into an error with its code', async () => {
    const problem = {
      type: '/api/problems/draft-changed',
      title: 'Changed',
      status: 412,
      detail: 'Someone was first.',
      remedy: 'Read again.',
    };
    const { server, address, asked } = await answering(
      412,
      'application/problem+json',
      JSON.stringify(problem),
    );
    const error = await createClient(address)
      .saveDraft('x y', 3, 'text')
      .catch((reason: unknown) => reason);
    expect(error).toBeInstanceOf(ServiceProblem);
    expect(error).toMatchObject({
      code: 'draft-changed',
      message: 'Someone was first.',
      problem: { remedy: 'Read again.' },
    });
    expect([asked[0]!.method, asked[0]!.url, asked[0]!.headers['if-match']]).toEqual([
      'PUT',
      '/api/sites/x%20y/draft',
      '"3"',
    ]);
    server.close();
  });

  test.each([
    [502, 'text/html', '<h1>Bad gateway</h1>'],
    [500, 'application/json', '{}'],
    [200, 'text/html', 'a login page of something in between'],
  ])('takes %i as %s for something that is not the service', async (status, type, body) => {
    const { server, address } = await answering(status, type, body);
    await expect(createClient(`${address}/`).sites()).rejects.toBeInstanceOf(Unreachable);
    server.close();
  });

  test('says which address it could not reach', async () => {
    await expect(createClient('http://127.0.0.1:9').sites()).rejects.toThrow(
      "The service at http://127.0.0.1:9 can't be reached.",
    );
  });

  test('a call that was given up is not taken for a service that is gone', async () => {
    const { server, address } = await answering(200, 'application/json', '{}');
    const controller = new AbortController();
    controller.abort();
    const error = await createClient(address)
      .checkText('', controller.signal)
      .catch((reason: unknown) => reason);
    expect(error).not.toBeInstanceOf(Unreachable);
    server.close();
  });

  test('asks for a grid with every filter it was given, and gives each visitor their cell', async () => {
    const sent = {
      visitors: ['x', '__proto__', 'y'].map((name) => ({ name })),
      rows: [{ address: '/', cells: ['first', 'second'], cellOf: [1, 0, 1] }],
    };
    const { server, address, asked } = await answering(
      200,
      'application/json',
      JSON.stringify(sent),
    );
    const { rows } = await createClient(address).grid('m', {
      state: 'live',
      under: '/a b',
      visitor: ['x', 'y'],
      outcome: ['loop'],
    });
    expect(asked[0]!.url).toBe(
      '/api/sites/m/grid?state=live&under=%2Fa%20b&visitor=x&visitor=y&outcome=loop',
    );
    expect(Object.entries(rows[0]!.cells)).toEqual([
      ['x', 'second'],
      ['__proto__', 'first'],
      ['y', 'second'],
    ]);
    server.close();
  });
});

test('each outcome has a sign of its own, so that colour is never the only one', () => {
  const signs = Object.values(OUTCOME_WORDS).map(({ sign }) => sign);
  expect(new Set(signs).size).toBe(signs.length);
});

test('a tally counts the column of one visitor', () => {
  const cell = (outcome: 'reach' | 'block') => ({
    outcome,
    status: 200,
    final: '/',
    hops: 0,
    fullAccess: false,
  });
  const row = (vik: 'reach' | 'block') => ({
    address: '/',
    title: '',
    visited: '/',
    parent: null,
    line: 1,
    cells: { vik: cell(vik), mia: cell('reach') },
  });
  expect(tally({ rows: [row('reach'), row('block'), row('block')] }, 'vik')).toEqual({
    reach: 1,
    block: 2,
  });
});
