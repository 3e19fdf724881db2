import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { KLEIDON } from '../../service/test/running.ts';

export interface Ended {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** Runs the command as people do, in a process of its own whose output goes into a pipe. */
export async function kleidon(
  args: readonly string[],
  options: { cwd?: string; env?: Record<string, string>; input?: string } = {},
): Promise<Ended> {
  const child = spawn(process.execPath, [KLEIDON, ...args], {
    cwd: options.cwd,
    env: { ...process.env, FORCE_COLOR: undefined, ...options.env },
  });
  let [out, err] = ['', ''];
  child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
  child.stderr.on('data', (chunk: Buffer) => (err += chunk.toString()));
  child.stdin.end(options.input ?? '');
  const [code] = (await once(child, 'close')) as [number];
  return { code, out, err };
}

/** Runs the command with --json and reads what it printed. */
export async function json<T = never>(
  args: readonly string[],
  options?: Parameters<typeof kleidon>[1],
): Promise<T> {
  return JSON.parse((await kleidon([...args, '--json'], options)).out) as T;
}
