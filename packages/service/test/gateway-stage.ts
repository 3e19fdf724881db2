import { once } from 'node:events';
import { writeFileSync } from 'node:fs';
import { createServer, type RequestListener, type Server } from 'node:http';
import { connect, type AddressInfo, type Socket } from 'node:net';
import { join } from 'node:path';
import { exportJWK, generateKeyPair, SignJWT, type CryptoKey } from 'jose';
import { run, temporaryFolder, type Running } from './running.ts';

/** A gateway before a website of the test's own, with a login of the website by signed tokens in the cookie `login`. */
export interface GatewayStage {
  service(): Running;
  readonly origin: Server;
  readonly folder: string;
  /** Host and port of the gateway. */
  host(): string;
  get(path: string, init?: RequestInit): Promise<Response>;
  /** A connection to the gateway, from an address of this machine. */
  connect(from?: string): Promise<Socket>;
  /**
   * Sends bytes as they are, with HOST replaced, and gives all that comes back until the connection is closed.
   * Each character is one byte.
   */
  raw(bytes: string): Promise<string>;
  /** A cookie that says who someone is. */
  cookieFor(sub: string, roles: readonly string[], expires?: string): Promise<string>;
  release(siteFile: string): Promise<void>;
  end(): Promise<void>;
}

export interface StageOptions {
  readonly site: string;
  readonly website: RequestListener | Server;
  /** More settings of the gateway, each on a line of its own with four spaces before. */
  readonly settings?: string;
  /** The address of the website, where it is not the server given. */
  readonly address?: (port: number) => string;
}

export async function stageGateway(options: StageOptions): Promise<GatewayStage> {
  const folder = temporaryFolder();
  const { website } = options;
  const origin = typeof website === 'function' ? createServer(website) : website;
  origin.listen(0, '127.0.0.1');
  await once(origin, 'listening');
  const pair = await generateKeyPair('EdDSA', { extractable: true });
  const key: CryptoKey = pair.privateKey;
  const keys = join(folder.path, 'keys.json');
  writeFileSync(keys, JSON.stringify({ keys: [await exportJWK(pair.publicKey)] }));
  const settings = join(folder.path, 'settings.yaml');
  const { port } = origin.address() as AddressInfo;
  writeFileSync(
    settings,
    `gateways:
  - site: stage
    port: 0
    origin: ${options.address?.(port) ?? `http://127.0.0.1:${port}`}
    origin-timeout: 5
    token: { cookie: login, keys: ${keys}, issuer: login, audience: stage }
${options.settings ?? ''}
`,
  );
  const service = await run(join(folder.path, 'data'), '--settings', settings);
  const api = `${service.address}/api/sites`;
  const added = await fetch(`${api}?id=stage`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/yaml' },
    body: options.site,
  });
  if (added.status !== 201) throw new Error(await added.text());
  let version = 1;
  const send = async (path: string, method: string, type: string, body: string) => {
    const answer = await fetch(`${api}/stage/${path}`, {
      method,
      headers: { 'Content-Type': type, 'If-Match': `"${version}"` },
      body,
    });
    if (!answer.ok) throw new Error(await answer.text());
    return (await answer.json()) as { version: number };
  };
  const host = (): string => new URL(service.gateway).host;
  const open = async (from?: string): Promise<Socket> => {
    const { hostname, port: gatewayPort } = new URL(service.gateway);
    const socket = connect({
      port: Number(gatewayPort),
      host: hostname,
      ...(from === undefined ? {} : { localAddress: from }),
    });
    await once(socket, 'connect');
    return socket;
  };
  const stage: GatewayStage = {
    service: () => service,
    origin,
    folder: folder.path,
    host,
    get: (path, init) => fetch(service.gateway + path, { redirect: 'manual', ...init }),
    connect: open,
    raw: async (bytes) => {
      const socket = await open();
      let answer = '';
      socket.on('data', (chunk: Buffer) => (answer += chunk.toString('latin1')));
      socket.on('error', () => undefined);
      const closed = once(socket, 'close');
      socket.write(Buffer.from(bytes.replaceAll('HOST', host()), 'latin1'));
      await closed;
      return answer;
    },
    cookieFor: async (sub, roles, expires = '5m') => {
      const token = new SignJWT({ sub, roles })
        .setProtectedHeader({ alg: 'EdDSA' })
        .setIssuer('login')
        .setAudience('stage')
        .setExpirationTime(expires);
      return `login=${await token.sign(key)}`;
    },
    release: async (siteFile) => {
      ({ version } = await send('draft', 'PUT', 'application/yaml', siteFile));
      await send('releases', 'POST', 'application/json', '{"note":"x"}');
    },
    end: async () => {
      await service.end();
      if ('closeAllConnections' in origin) origin.closeAllConnections();
      origin.close();
      folder.remove();
    },
  };
  await send('releases', 'POST', 'application/json', '{"note":"x"}');
  return stage;
}

/** The status of a response as it came over the connection; null where there is none. */
export const statusIn = (answer: string): number | null => {
  const status = /^HTTP\/1\.1 (\d+)/.exec(answer)?.[1];
  return status === undefined ? null : Number(status);
};
