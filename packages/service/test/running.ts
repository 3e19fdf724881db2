import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const KLEIDON = fileURLToPath(new URL('../../cli/bin/kleidon.js', import.meta.url));
export const SAMPLE = fileURLToPath(
  new URL('../../../demo/merrow-point.site.yaml', import.meta.url),
);

/** A folder that goes away with the tests. */
export function temporaryFolder(): { path: string; remove(): void } {
  const path = mkdtempSync(join(tmpdir(), 'kleidon-'));
  return { path, remove: () => rmSync(path, { recursive: true, force: true }) };
}

/** The service as people run it: a process of its own, on a free port of loopback. */
export interface Running {
  readonly address: string;
  /** Where its gateway is; empty where it has none. */
  readonly gateway: string;
  readonly process: ChildProcess;
  readonly log: () => string;
  /** Sends a signal and waits until the process has ended; gives its exit code. */
  end(signal?: NodeJS.Signals): Promise<number | null>;
}

export function run(data: string, ...options: string[]): Promise<Running> {
  return start(process.execPath, KLEIDON, 'serve', '--port', '0', '--data', data, ...options);
}

/** The same with few files that may be open. */
export const runWithFiles = (files: number, data: string, ...options: string[]): Promise<Running> =>
  start(
    ...(['sh', '-c', `ulimit -n ${files}; exec "$@"`, 'sh', process.execPath, KLEIDON] as const),
    ...['serve', '--port', '0', '--data', data, ...options],
  );

async function start(command: string, ...args: string[]): Promise<Running> {
  const child = spawn(command, args, {
    stdio: ['ignore', 'pipe', 'pipe'],
    // That of the test, which may have set something for the service.
    env: process.env,
  });
  let log = '';
  child.stderr.on('data', (chunk: Buffer) => (log += chunk.toString()));
  const [address, gateway] = await new Promise<[string, string]>((resolve, reject) => {
    let said = '';
    child.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      const found = /Kleidon is at (\S+)/.exec(said)?.[1];
      if (found) resolve([found, /The gateway of \S+ is at (\S+),/.exec(said)?.[1] ?? '']);
    });
    child.once('exit', (code) => reject(new Error(`The service ended with ${code}: ${log}`)));
  });
  return {
    address,
    gateway,
    process: child,
    log: () => log,
    end: async (signal = 'SIGTERM') => {
      if (child.exitCode !== null || child.signalCode !== null) return child.exitCode;
      const ended = once(child, 'exit');
      child.kill(signal);
      return ((await ended) as [number | null])[0];
    },
  };
}
