import { readFileSync } from 'node:fs';
import { EXIT, Stop } from './exit.ts';

/** Reads a file, or ends the command and says why it can't be read. */
export function readText(file: string): string {
  try {
    return readFileSync(file === '-' ? 0 : file, 'utf8');
  } catch (error) {
    throw new Stop(EXIT.wrongUse, `The file ${file} can't be read: ${(error as Error).message}.`);
  }
}
