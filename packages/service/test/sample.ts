import { spawn, type ChildProcess } from 'node:child_process';
import { randomInt } from 'node:crypto';
import { once } from 'node:events';
import { readFileSync, writeFileSync } from 'node:fs';
import { createServer, type RequestListener, type Server } from 'node:http';
import { createServer as createSocketServer, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createClient } from '@kleidon/client';
import { run, runWithFiles, SAMPLE, type Running } from './running.ts';

const DEMO = fileURLToPath(new URL('../../../demo/', import.meta.url));

/** A program of the demo, in a process of its own. */
export interface Program {
  readonly address: string;
  end(): Promise<void>;
}

export async function program(file: string, ...args: string[]): Promise<Program> {
  const child: ChildProcess = spawn(
    process.execPath,
    ['--no-warnings', join(DEMO, file), ...args],
    { stdio: ['ignore', 'pipe', 'ignore'] },
  );
  const address = await new Promise<string>((resolve, reject) => {
    let said = '';
    child.stdout!.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      const found = / is at (\S+)$/m.exec(said)?.[1];
      if (found) resolve(found);
    });
    child.once('exit', (code) => reject(new Error(`${file} ended with ${code}`)));
  });
  return {
    address,
    end: async () => {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const ended = once(child, 'exit');
      child.kill('SIGKILL');
      await ended;
    },
  };
}

/** Answers at a free port of loopback. */
export async function serve(listener: RequestListener): Promise<{ server: Server; at: string }> {
  const server = createServer(listener).listen(0, '127.0.0.1');
  await once(server, 'listening');
  return { server, at: `http://127.0.0.1:${(server.address() as AddressInfo).port}` };
}

/**
 * Passes requests on to a website, so that faults can be put into what it answers.
 * @param fault answers in place of the website where it does
 */
export const passing = (
  website: () => string,
  fault: () => RequestListener | null,
): ReturnType<typeof serve> =>
  serve((request, response) => {
    fault()?.(request, response);
    if (response.writableEnded || response.destroyed) return;
    void fetch(website() + request.url!, { redirect: 'manual' }).then(async (answer) => {
      const type = answer.headers.get('Content-Type') ?? 'text/plain';
      response.writeHead(answer.status, { 'Content-Type': type });
      response.end(Buffer.from(await answer.arrayBuffer()));
    });
  });

/** That of the shop of the demo. */
const SHOP_SECRET = `whsec_${Buffer.alloc(32, 'demo').toString('base64')}`;

/** Below the ports that the system gives to connections, which would take one before the gateway. */
const FIRST_PORT = 20_000;
const PORTS = 12_000;

/** A port of loopback that is free, and that no connection is given of itself. */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = FIRST_PORT + randomInt(PORTS);
    const server = createSocketServer().listen(port, '127.0.0.1');
    try {
      await once(server, 'listening');
    } catch {
      continue;
    }
    server.close();
    await once(server, 'close');
    return port;
  }
}

/** The sample site as the demo has it: its website, the test provider, and the gateway before it. */
export interface SampleSite {
  readonly gateway: string;
  readonly identity: Program;
  readonly website: Program;
  /** Where the shop is; it is there where it was asked for. */
  readonly shop: string;
  service(): Running;
  /** Starts the service again, with the same data and settings. */
  restart(signal: NodeJS.Signals): Promise<void>;
  end(): Promise<void>;
}

export async function sampleSite(
  folder: string,
  {
    file = SAMPLE,
    more = () => '',
    origin = '',
    patience = 3,
    hasShop = false,
    files = null,
  }: {
    file?: string;
    /** More settings, of the gateway first. */
    more?: (website: string) => string;
    origin?: string;
    /** The `origin-timeout` of the gateway. */
    patience?: number;
    hasShop?: boolean;
    /** How many files the service may have open; as many as usual if null. */
    files?: number | null;
  } = {},
): Promise<SampleSite> {
  const [port, shopPort] = [await freePort(), await freePort()];
  const gateway = `http://127.0.0.1:${port}`;
  const shop = `http://127.0.0.1:${shopPort}`;
  const [website, identity] = await Promise.all([
    program('website/server.mjs', '--port', '0', ...(hasShop ? ['--shop', shop] : [])),
    program('identity.mjs', '--port', '0', '--site', file, '--back', gateway),
  ]);
  const settings = join(folder, 'kleidon.yaml');
  writeFileSync(
    settings,
    `gateways:
  - site: merrow-point
    port: ${port}
    origin: ${origin || website.address}
    origin-timeout: ${patience}
    sign-in:
      provider: ${identity.address}
      client: merrow-point
      secret: only-for-the-demo
      test-provider: yes
${hasShop ? `shops: [{ name: observatory, site: merrow-point, secret: '${SHOP_SECRET}' }]\n` : ''}${more(website.address)}`,
  );
  const options = ['--settings', settings, '--log-level', 'warn'];
  const start = (): Promise<Running> =>
    files === null ? run(folder, ...options) : runWithFiles(files, folder, ...options);
  let service = await start();
  const client = createClient(service.address);
  await client.addSite(readFileSync(file, 'utf8'), 'merrow-point');
  await client.release('merrow-point', 1, 'First');
  const selling = hasShop
    ? await program(
        ...(['shop/server.mjs', '--port', String(shopPort), '--gateway', gateway] as const),
        ...['--kleidon', service.address, '--secret', SHOP_SECRET, '--data', join(folder, 'shop')],
      )
    : null;
  return {
    gateway,
    identity,
    website,
    shop,
    service: () => service,
    restart: async (signal) => {
      await service.end(signal);
      service = await start();
    },
    end: async () => {
      await Promise.all([service.end(), website.end(), identity.end(), selling?.end()]);
    },
  };
}
