import { once } from 'node:events';
import { createServer, type RequestListener } from 'node:http';
import type { AddressInfo } from 'node:net';
import { gzipSync } from 'node:zlib';
import { boundedFetch } from '../src/sign-in/bounded-fetch.ts';

async function fetched(answer: RequestListener, most: number): Promise<string> {
  const server = createServer(answer).listen(0, '127.0.0.1');
  await once(server, 'listening');
  try {
    const at = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    return await (await boundedFetch(at, {}, most)).text();
  } finally {
    server.close();
  }
}

test('an answer is read as it is, and no further than it may be long when unpacked', async () => {
  const packed = gzipSync(Buffer.alloc(1_000_000, 'x'));
  const send: RequestListener = (_, response) =>
    response.writeHead(200, { 'Content-Encoding': 'gzip' }).end(packed);
  expect(packed.length).toBeLessThan(2000);
  expect(await fetched(send, 1_000_000)).toHaveLength(1_000_000);
  await expect(fetched(send, 999_999)).rejects.toThrow('over 999999 bytes');
});

test('one without end is ended', async () => {
  let ended: () => void;
  const closed = new Promise<void>((done) => (ended = done));
  await expect(
    fetched((_, response) => {
      response.once('close', ended);
      const more = (): void => {
        while (!response.destroyed && response.write(Buffer.alloc(65_536)));
        response.once('drain', more);
      };
      more();
    }, 100_000),
  ).rejects.toThrow('over 100000 bytes');
  await closed;
});
