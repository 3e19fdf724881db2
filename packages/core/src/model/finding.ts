import type { PatchOperation } from './patch-operation.ts';

/** Something that looks wrong in a site file which can be read, with how to fix it. */
export interface Finding {
  readonly code: string;
  readonly severity: 'high' | 'medium' | 'low';
  /** What it is about, such as `gate crew-room`; a finding is accepted by its code and this. */
  readonly about: string;
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly message: string;
  readonly remedy: string;
  /** The change of the site file that fixes it, where there is a small one. */
  readonly fix: readonly PatchOperation[] | null;
}
