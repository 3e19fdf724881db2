import type { SourceOptions } from '../options.ts';
import type { Source } from './source.ts';

/** The source that the options name; what reads site files is loaded for those alone. */
export async function sourceFrom(options: SourceOptions): Promise<Source> {
  if (options.file !== undefined) return (await import('./of-file.ts')).fromFile(options.file);
  return (await import('./of-service.ts')).fromService(options);
}
